import { clsx } from "clsx";
import { Tabs } from "radix-ui";
import { useState } from "react";
import { useNavigate, useParams } from "react-router";

import { api, data } from "../api/client";
import { usePlans } from "../api/hooks";
import { Narrow } from "../library/Narrow";
import { CommitSheet } from "../commit/CommitSheet";
import { NumberField } from "../desk/panels/NumberField";
import { euro, grams, hours } from "../format";
import { moveAt, type Toolpath, useMoves } from "../desk/state/toolpath";
import { Message } from "../frame/Message";
import { TextField } from "../workshop/TextField";
import { BedFindings } from "./BedFindings";
import { BedMap } from "./BedMap";
import { BedStage } from "./BedStage";
import { BedSettings } from "./BedSettings";
import { Course } from "./Course";
import { PlacingTable } from "./PlacingTable";
import type { Point } from "./geometry";
import { useBed, type Bed, type BedRoom } from "./useBed";
import { Ways } from "./Ways";

/** One bed: the map, the figures and ways beside it, the course below. */
export function BedScreen() {
  const { id } = useParams();
  const here = useBed(Number(id));
  const [lit, setLit] = useState<number | null>(null);
  // the moment that is looked at: pointed at along the course, or kept by a click
  const [pointed, setPointed] = useState<number | null>(null);
  const [kept, setKept] = useState<number | null>(null);
  const at = pointed ?? kept;
  const [view, setView] = useState<View>(window.innerWidth >= WIDE ? "both" : "map");
  const exact = here.bed?.version.report ? here.bed.version : here.bed?.exact;
  const moves = useMoves(
    view !== "map" && exact?.report ? `/api/bed-versions/${exact.id}/moves` : null,
  );
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
        <div className="relative flex min-w-0 flex-1">
          {view !== "beads" && (
            <section className="min-w-0 flex-1 p-2" aria-label="Map">
              <BedMap here={here} lit={lit} head={headAt(bed, moves.data, at)} />
            </section>
          )}
          {view !== "map" && (
            <div className="min-w-0 flex-1 border-l border-hairline">
              <BedStage key={view} bed={bed} path={moves.data} at={at} />
            </div>
          )}
          <ViewChoice view={view} onView={setView} />
        </div>
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
        <Course here={here} kept={kept} onLit={setLit} onAt={setPointed} onKeep={setKept} />
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
          times={here.spec?.times ?? 1}
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

const VIEWS = { map: "map", beads: "beads", both: "both" } as const;
type View = keyof typeof VIEWS;
/** Windows at least this wide show map and beads beside each other (px). */
const WIDE = 1600;

function ViewChoice({ view, onView }: { view: View; onView: (view: View) => void }) {
  return (
    <fieldset className="absolute top-2 right-3 z-[3] flex gap-2 bg-paper/90 px-1 text-[13px]">
      <legend className="sr-only">What is shown of the bed</legend>
      {(Object.keys(VIEWS) as View[]).map((key) => (
        <label key={key} className="flex items-center gap-1">
          <input
            type="radio"
            name="bed view"
            className="accent-ink"
            checked={view === key}
            onChange={() => onView(key)}
          />
          {VIEWS[key]}
        </label>
      ))}
    </fieldset>
  );
}

/** Where the head is on the map at a moment. */
function headAt(bed: Bed, path: Toolpath | undefined, at: number | null): Point | null {
  if (!path || at === null) return null;
  const move = moveAt(path, at);
  const [x = 0, y = 0] = bed.plate.origin;
  return [(path.x[move] ?? 0) - x, (path.y[move] ?? 0) - y];
}

function Header({ here, onCommit }: { here: BedRoom; onCommit: () => void }) {
  const { bed, report } = here;
  if (!bed) return null;
  const stops = report?.findings.filter((finding) => finding.severity === "stop").length ?? 0;
  // what is changed here and not kept yet is not what was computed
  const state = bed.version.state === "done" && !here.fresh ? "changed" : bed.version.state;
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
        {(here.spec?.times ?? 1) > 1 && <b> · wanted {here.spec?.times} times</b>}
      </span>
      <SpoolReach here={here} />
      <span role="status" data-state={state} className="text-[13px] text-ink-2">
        {here.computing
          ? `${bed.version.stage || "queued"} … ${Math.round(100 * bed.version.share)} %`
          : state === "done"
            ? "exact"
            : state}
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

/** How many of these beds the spool gives, and where it runs out. */
function SpoolReach({ here }: { here: BedRoom }) {
  const reach = here.fresh ? here.bed?.spool_reach : null;
  if (!reach) return null;
  const short = reach.missing_g > 0.05;
  return (
    <span
      className={`text-[13px] ${short ? "text-look" : "text-ink-2"}`}
      title={
        reach.bed === null || reach.at_s === null
          ? undefined
          : `It runs out in bed ${reach.bed}, pass ${reach.at_pass}, ` +
            `${hours(reach.at_s)} h after the first begins`
      }
      data-reach={reach.beds}
    >
      {short && "▲ "}
      {reach.label}: {grams(reach.free_g)} g free,{" "}
      {short
        ? `${grams(reach.missing_g)} g short of ${reach.wanted === 1 ? "it" : reach.wanted}`
        : `${reach.beds} of these`}
    </span>
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
  const [search, setSearch] = useState("");
  const plans = usePlans({ search });
  const navigate = useNavigate();
  const { bed, placings } = here;
  const [chosen, setChosen] = useState("");
  const [count, setCount] = useState(20);
  const [evenly, setEvenly] = useState(false);
  if (!bed) return null;
  const others = (plans.data ?? []).filter(
    (plan) => plan.exact && !bed.pins.some((pin) => pin.plan === plan.id),
  );
  const plain = { x: 0, y: 0, turn: 0, group: 1, locked: false, pause: false };
  const key = chosen || (bed.pins[0]?.key ?? "");
  return (
    <div className="border-b border-hairline p-2 text-[13px]">
      <div className="flex flex-wrap items-center gap-1.5">
        <Narrow
          what="plans"
          found={plans.data?.length ?? 0}
          search={search}
          onSearch={setSearch}
        />
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
      <div className="mt-1.5 flex flex-wrap items-center gap-1.5">
        <NumberField
          label="Copies in all"
          unit=""
          value={count}
          min={1}
          max={200000}
          step={1}
          width="w-16"
          onValue={(v) => setCount(Math.round(v ?? 1))}
        />
        <span>copies over several beds</span>
        <select
          className="field"
          aria-label="How copies are shared out"
          value={evenly ? "evenly" : "filled"}
          onChange={(event) => setEvenly(event.target.value === "evenly")}
        >
          <option value="filled">filled one by one</option>
          <option value="evenly">evenly</option>
        </select>
        <button
          className="quiet"
          disabled={!key}
          title="This bed is laid out anew; the others are beds beside it."
          onClick={() => here.share(key, count, evenly)}
        >
          Share out
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
