import { useSearchParams } from "react-router";

import type { Schemas } from "../api/client";
import { useMachines, useMaterials, useSettings, useWorkshop } from "../api/hooks";
import { Message } from "../frame/Message";
import { Hours } from "./Hours";
import { Machines } from "./Machines";
import { Materials } from "./Materials";
import { Naming } from "./Naming";
import { People } from "./People";
import { State } from "./State";
import { WorkshopFile } from "./WorkshopFile";
import { You } from "./You";

const PAGES = [
  ["machines", "Machines"],
  ["materials", "Materials and spools"],
  ["hours", "Hours and quotes"],
  ["names", "Names and checklist"],
  ["file", "Workshop file"],
  ["people", "People"],
  ["state", "State"],
  ["you", "You"],
] as const;

/** Machines, materials, spools, and what the workshop has of its own: one page each. */
export function WorkshopScreen({ session }: { session: Schemas["Session"] }) {
  const workshop = useWorkshop();
  const machines = useMachines();
  const materials = useMaterials();
  const settings = useSettings();
  const [search, setSearch] = useSearchParams();
  const page = search.get("page") ?? "machines";
  if (!workshop.data || !machines.data || !materials.data || !settings.data) {
    const error = workshop.error ?? machines.error ?? materials.error ?? settings.error;
    return <Message title="Workshop" text={error?.message ?? "Opening the cupboards …"} />;
  }
  return (
    <main className="mx-auto flex max-w-6xl flex-col gap-4 p-5">
      <header className="flex flex-wrap items-baseline gap-x-4 gap-y-1">
        <h1 className="text-2xl font-semibold">{workshop.data.name}</h1>
        {workshop.data.sample && (
          <p className="text-ink-2">The sample workshop: all of it is made up.</p>
        )}
        <nav aria-label="Pages of the workshop" className="ml-auto flex">
          {PAGES.filter(([key]) => key !== "state" || session.role === "owner").map(
            ([key, name]) => (
              <button
                key={key}
                className="quiet min-h-8"
                aria-pressed={page === key}
                onClick={() => setSearch({ page: key })}
              >
                {name}
              </button>
            ),
          )}
        </nav>
      </header>
      {page === "machines" && (
        <Machines
          machines={machines.data}
          settings={settings.data}
          materials={materials.data}
        />
      )}
      {page === "materials" && (
        <Materials materials={materials.data} settings={settings.data} />
      )}
      {page === "names" && (
        <Naming key={workshop.data.name_template} workshop={workshop.data} />
      )}
      {page === "hours" && <Hours workshop={workshop.data} />}
      {page === "file" && <WorkshopFile />}
      {page === "people" && <People role={session.role} />}
      {page === "state" && <State />}
      {page === "you" && <You session={session} />}
    </main>
  );
}
