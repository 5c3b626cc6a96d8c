import { clsx } from "clsx";
import { Tabs } from "radix-ui";
import { useState } from "react";
import { useNavigate, useParams } from "react-router";

import { api, data } from "../api/client";
import { usePlans } from "../api/hooks";
import { CommitSheet } from "../commit/CommitSheet";
import { euro, grams, hours } from "../format";
import { Message } from "../frame/Message";
import { TextField } from "../workshop/TextField";
import { BedFindings } from "./BedFindings";
import { BedMap } from "./BedMap";
import { BedSettings } from "./BedSettings";
import { Course } from "./Course";
import { PlacingTable } from "./PlacingTable";
import { useBed, type BedRoom } from "./useBed";
import { Ways } from "./Ways";

/** One bed: the map, the figures and ways beside it, the course below. */
export function BedScreen() {
  const { id } = useParams();
  const here = useBed(Number(id));
  const [lit, setLit] = useState<number | null>(null);
  const [committing, setCommitting] = useState(false);
  const { bed, report } = here;
  if (here.query.isPending) return <Message title="Bed" text="Fetching the bed …" />;
  if (!bed)
    return (
      <Message
        title="Bed"
        text={here.query.error?.message ?? "There is no such bed."}
        again={() => void here.query.refetch()}
      />
    );
  return (
    <main className="flex h-full min-h-[640px] flex-col">
      <Header here={here} onCommit={() => setCommitting(true)} />
      {(here.error ?? (bed.version.state === "failed" && bed.version.message)) && (
        <p role="alert" className="border-b border-hairline px-4 py-1.5 text-stop">
          {here.error?.message ?? bed.version.message}
        </p>
      )}
      <div className="flex min-h-0 flex-1">
        <section className="min-w-0 flex-1 p-2" aria-label="Map">
          <BedMap here={here} lit={lit} />
        </section>
        <aside
          className={clsx(
            "flex w-[500px] max-w-[52%] shrink-0 flex-col",
            "border-l border-hairline bg-sheet",
          )}
        >
          <Panels here={here} />
        </aside>
      </div>
      <section className="shrink-0 border-t border-hairline bg-sheet" aria-label="Course">
        <Course here={here} onLit={setLit} />
      </section>
      {committing && report && (
        <CommitSheet
          title={`Review: ${bed.name || `bed ${bed.number}`} version ${bed.version.number}`}
          figures={{
            seconds: report.total_s,
            grams: report.mass_g,
            mm: report.length_mm,
            cost: report.cost,
            more: `${report.placings.length} placings, ${report.passes.tops_mm.length} passes`,
          }}
          subject={`bed ${bed.version.id}`}
          nameOf={(template) =>
            data(
              api.POST("/api/bed-versions/{id}/name", {
                params: { path: { id: bed.version.id } },
                body: { template },
              }),
            )
          }
          reviewOf={(copies) =>
            data(
              api.GET("/api/bed-versions/{id}/review", {
                params: { path: { id: bed.version.id }, query: { copies } },
              }),
            )
          }
          commit={(body) =>
            data(
              api.POST("/api/bed-versions/{id}/commit", {
                params: { path: { id: bed.version.id } },
                body,
              }),
            )
          }
          onClose={() => setCommitting(false)}
        />
      )}
    </main>
  );
}

function Header({ here, onCommit }: { here: BedRoom; onCommit: () => void }) {
  const { bed, report } = here;
  if (!bed) return null;
  const stops = report?.findings.filter((finding) => finding.severity === "stop").length ?? 0;
  return (
    <header
      className={clsx(
        "flex flex-wrap items-center gap-x-4 gap-y-1",
        "border-b border-hairline bg-sheet px-4 py-2",
      )}
    >
      <TextField
        label="Name of the bed"
        value={bed.name || `Bed ${bed.number}`}
        size="text-lg font-semibold"
        onValue={here.name}
      />
      <span className="text-[13px] text-ink-2">
        {bed.machine}, {bed.plate.bore_mm} mm
      </span>
      <span
        className={`text-[26px] leading-none font-semibold ${here.fresh ? "" : "opacity-45"}`}
        data-figure="time"
      >
        {report ? `${hours(report.total_s)} h` : "–"}
      </span>
      <span className={`text-[13px] ${here.fresh ? "" : "opacity-45"}`}>
        {report &&
          `${report.placings.length} placings · ${grams(report.mass_g)} g · ${euro(report.cost)}`}
      </span>
      <span role="status" data-state={bed.version.state} className="text-[13px] text-ink-2">
        {here.computing
          ? `${bed.version.stage || "queued"} … ${Math.round(100 * bed.version.share)} %`
          : bed.version.state === "done"
            ? "exact"
            : bed.version.state}
      </span>
      {here.computing && (
        <button className="quiet" onClick={here.cancel}>
          Stop
        </button>
      )}
      <span className="ml-auto flex gap-1.5">
        <button className="quiet" disabled={!bed.can_undo} onClick={here.undo}>
          Undo
        </button>
        <button className="quiet" disabled={!bed.can_redo} onClick={here.redo}>
          Redo
        </button>
        <button className="quiet" disabled={!here.placings.length} onClick={here.arrange}>
          Arrange
        </button>
        <button
          className="action"
          disabled={!here.fresh || !report || stops > 0}
          title={stops ? "A finding stops it; see Findings" : undefined}
          onClick={onCommit}
        >
          Commit …
        </button>
      </span>
    </header>
  );
}

function Panels({ here }: { here: BedRoom }) {
  const found = here.report?.findings ?? [];
  const stops = found.filter((finding) => finding.severity === "stop").length;
  return (
    <Tabs.Root defaultValue="placings" className="flex min-h-0 flex-1 flex-col">
      <Tabs.List className="flex border-b border-hairline" aria-label="Instruments of the bed">
        {[
          ["placings", "Placings"],
          ["ways", "Ways"],
          ["findings", `Findings${found.length ? ` ${found.length}` : ""}`],
          ["settings", "How it is laid"],
        ].map(([value = "", words]) => (
          <Tabs.Trigger
            key={value}
            value={value}
            className={clsx(
              "border-0 border-b-2 border-transparent bg-transparent px-3 py-2",
              "data-[state=active]:border-north data-[state=active]:font-semibold",
            )}
          >
            {words}
            {value === "findings" && stops > 0 && <span className="ml-1 text-stop">■</span>}
          </Tabs.Trigger>
        ))}
      </Tabs.List>
      <div className="min-h-0 flex-1 overflow-auto">
        <Tabs.Content value="placings">
          <Adding here={here} />
          <PlacingTable here={here} />
        </Tabs.Content>
        <Tabs.Content value="ways">
          <Ways here={here} />
        </Tabs.Content>
        <Tabs.Content value="findings">
          <BedFindings here={here} />
        </Tabs.Content>
        <Tabs.Content value="settings">
          <BedSettings here={here} />
        </Tabs.Content>
      </div>
    </Tabs.Root>
  );
}

/** Plans that are on the bed or may be put on it: a copy more, filled with it, a newer version. */
function Adding({ here }: { here: BedRoom }) {
  const plans = usePlans();
  const navigate = useNavigate();
  const { bed, placings } = here;
  const [chosen, setChosen] = useState("");
  if (!bed) return null;
  const others = (plans.data ?? []).filter(
    (plan) => plan.exact && !bed.pins.some((pin) => pin.plan === plan.id),
  );
  const plain = { x: 0, y: 0, turn: 0, group: 1, locked: false, pause: false };
  const key = chosen || (bed.pins[0]?.key ?? "");
  return (
    <div className="border-b border-hairline p-2 text-[13px]">
      <div className="flex flex-wrap items-center gap-1.5">
        <select
          className="field max-w-52"
          aria-label="Plan to put on the bed"
          value={key}
          onChange={(event) => setChosen(event.target.value)}
        >
          {bed.pins.map((pin) => (
            <option key={pin.key} value={pin.key}>
              {pin.part}, plan {pin.plan_number} v{pin.version}
            </option>
          ))}
          {others.map((plan) => (
            <option key={plan.id} value={String(plan.exact)}>
              {plan.part_name}, plan {plan.number} (not on it yet)
            </option>
          ))}
          {!key && <option value="">no exact plan yet</option>}
        </select>
        <button
          className="quiet"
          disabled={!key}
          onClick={() => here.put([...placings, { ...plain, plan: key }])}
        >
          Add one
        </button>
        <button className="quiet" disabled={!key} onClick={() => here.fill(key)}>
          Fill the bed
        </button>
      </div>
      {bed.pins
        .filter((pin) => pin.newer)
        .map((pin) => (
          <p key={pin.key} className="mt-1.5 text-look">
            ▲ {pin.part}: plan {pin.plan_number} has a newer version {pin.newer_version};
            version {pin.version} is on the bed.{" "}
            <button
              className="word"
              onClick={() =>
                here.put(
                  placings.map((placing) =>
                    placing.plan === pin.key
                      ? { ...placing, plan: pin.newer ?? pin.key }
                      : placing,
                  ),
                )
              }
            >
              take the newer one
            </button>{" "}
            ·{" "}
            <button className="word" onClick={() => void navigate(`/plans/${pin.plan}`)}>
              open the plan
            </button>
          </p>
        ))}
    </div>
  );
}
