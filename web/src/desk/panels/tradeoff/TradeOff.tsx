import { clsx } from "clsx";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useMemo, useState } from "react";

import { api, data, type Plan } from "../../../api/client";
import { usePlans } from "../../../api/hooks";
import { hours, plain } from "../../../format";
import { NumberField } from "../NumberField";
import { arrowsOf, useSearch } from "../propose/useSearch";
import type { Choice } from "../../state/choice";
import type { Desk } from "../../state/useDesk";
import { withSurface } from "../../state/wanted";
import { Chart, type Kept } from "./Chart";
import { evenAtError, evenAtTime, type Measure, MEASURES, useFrontier } from "./frontier";
import { FrontierTable } from "./FrontierTable";
import { baselineName } from "../../state/useGhost";
import { useRoom } from "../../state/room";

/**
 * The middle of the product: what a surface costs in time, what a time buys in surface, and the
 * target to drag between them.
 */
export function TradeOff() {
  const { plan, desk } = useRoom();
  const { kind, ask, measure, targetUm, capMin: cap, worstUm } = desk.wanted;
  const { frontier, whole, ofNow, error } = useFrontier(
    plan.id,
    plan.exact?.id ?? null,
    desk.choice,
    measure,
  );
  const kept = useKept(plan, measure);
  const figures = desk.figures;
  const { search } = useSearch(plan.id);
  // proposals are made for the percentile, and for one version of the plan
  const current = desk.upToDate ? (plan.exact?.id ?? null) : null;
  const arrows = useMemo(
    () => (measure === "p95" ? arrowsOf(search, current) : []),
    [measure, search, current],
  );
  const [table, setTable] = useState(false);
  const set = (values: Record<string, unknown>): Choice => withSurface(desk.choice, values);
  const fit = kind === "adaptive" ? "adaptive" : "best-fit";
  const dragged = (to: { minutes: number; error: number }): Choice =>
    ask === "cap"
      ? set({ kind: "best-fit", time_cap_min: Math.round(to.minutes * 2) / 2 })
      : set({ kind: fit, target_um: Math.round(to.error), time_cap_min: undefined });
  if (error && !frontier)
    return (
      <p role="alert" className="p-4 text-stop">
        {error.message}
      </p>
    );
  const now = figures?.surface[MEASURES[measure].key] ?? null;
  return (
    <div className="flex min-h-full flex-col">
      <div className="flex flex-wrap items-center gap-x-2 gap-y-1 px-3 pt-2">
        <span className="flex" role="group" aria-label="What is asked for">
          <button
            className="quiet"
            aria-pressed={kind !== "even" && ask === "target"}
            onClick={() =>
              desk.change(
                set({
                  kind: fit,
                  target_um: Math.round(now ?? targetUm),
                  time_cap_min: undefined,
                }),
              )
            }
          >
            least time for
          </button>
          <button
            className="quiet"
            aria-pressed={ask === "cap"}
            onClick={() =>
              desk.change(
                set({
                  kind: "best-fit",
                  time_cap_min: Math.ceil((figures?.time ?? 3600) / 60),
                }),
              )
            }
          >
            best within
          </button>
        </span>
        {ask === "cap" ? (
          <NumberField
            label="Time cap"
            unit="min"
            value={cap}
            min={1}
            max={60000}
            step={1}
            width="w-16"
            onValue={(v) => v && desk.change(set({ kind: "best-fit", time_cap_min: v }))}
          />
        ) : (
          <NumberField
            label="Surface target"
            again={kind === "even"}
            unit="µm"
            value={targetUm}
            min={1}
            max={2000}
            step={1}
            width="w-14"
            onValue={(v) =>
              v && desk.change(set({ kind: fit, target_um: v, time_cap_min: undefined }))
            }
          />
        )}
        <span className="flex" role="group" aria-label="Measure of the step error">
          {(Object.keys(MEASURES) as Measure[]).map((name) => (
            <button
              key={name}
              className="quiet"
              aria-pressed={measure === name}
              disabled={kind === "adaptive"}
              title={
                kind === "adaptive"
                  ? "adaptive keeps its target everywhere"
                  : MEASURES[name].long
              }
              onClick={() => desk.change(set({ measure: name }))}
            >
              {MEASURES[name].word}
            </button>
          ))}
        </span>
        {kind === "best-fit" && measure !== "max" && (
          <span
            className="inline-flex items-center gap-1 text-[13px] text-ink-2"
            title="No step taller than this anywhere, beside the target"
          >
            nothing above
            <NumberField
              label="Nothing above"
              unit="µm"
              value={worstUm}
              placeholder="any"
              min={1}
              max={5000}
              step={5}
              width="w-12"
              onValue={(v) => desk.change(set({ worst_um: v ?? undefined }))}
            />
          </span>
        )}
      </div>
      {figures && !figures.surface.reached && figures.surface.missed && (
        <p role="status" className="px-3 pt-1 text-[13px] text-look">
          <b>▲</b> {figures.surface.missed}
        </p>
      )}
      <div className="relative min-h-44 flex-1 px-1">
        {frontier && !(whole && ofNow) && (
          // over the chart, so that nothing moves when it goes
          <p
            role="status"
            className="narrow absolute top-0 right-2 z-[1] bg-sheet px-1 text-[12px] text-ink-2"
          >
            {ofNow ? "frontier: solved points so far" : "frontier: of the settings before"}
          </p>
        )}
        {frontier && figures && now !== null ? (
          <Chart
            frontier={frontier}
            whole={whole}
            measure={measure}
            kept={kept}
            arrows={arrows}
            onSlide={(to) => desk.slide(dragged(to))}
            onSettle={(to) => desk.settle(dragged(to))}
            target={{
              seconds: figures.time,
              error: now,
              ask,
              mark: figures.state === "quick" ? "≈ " : "",
              value: kind === "even" ? null : ask === "cap" ? cap : targetUm,
            }}
          />
        ) : (
          <p className="p-4 text-ink-2">
            The frontier is being worked out: the least time for every surface this part allows
            …
          </p>
        )}
      </div>
      <div
        className={clsx(
          "flex flex-wrap items-center gap-x-3 gap-y-1 border-t border-hairline",
          "px-3 py-1 text-[13px] text-ink-2",
        )}
      >
        {frontier && figures && now !== null && (
          <Against
            frontier={frontier.even}
            seconds={figures.time}
            error={now}
            measure={measure}
          />
        )}
        {figures && figures.surface.gap > 0.0005 && (
          <span>
            no stack beats this by more than{" "}
            {plain(Number((100 * figures.surface.gap).toFixed(1)))} %
          </span>
        )}
        <KeepButtons plan={plan} desk={desk} />
        {frontier && (
          <button
            className="quiet"
            aria-label="Trade-off as a table"
            onClick={() => setTable(true)}
          >
            table …
          </button>
        )}
      </div>
      {table && frontier && (
        <FrontierTable frontier={frontier} onClose={() => setTable(false)} />
      )}
    </div>
  );
}

function Against({
  frontier,
  seconds,
  error,
  measure,
}: {
  frontier: Parameters<typeof evenAtTime>[0];
  seconds: number;
  error: number;
  measure: Measure;
}) {
  const same = evenAtTime(frontier, seconds, measure);
  const time = evenAtError(frontier, error, measure);
  return (
    <span data-against="even">
      even at the same time:{" "}
      <b className="text-ink">{same === null ? "none so fast" : `${Math.round(same)} µm`}</b> ·
      even at the same surface:{" "}
      <b className="text-ink">{time === null ? "none so fine" : `${hours(time)} h`}</b>
    </span>
  );
}

/** Other plans of the same part, and the baseline, as points. */
function useKept(plan: Plan, measure: Measure): Kept[] {
  const plans = usePlans({ part: plan.part.id });
  const key = MEASURES[measure].key;
  const out: Kept[] = (plans.data ?? [])
    .filter(
      (row) =>
        row.id !== plan.id &&
        row.surface &&
        row.time_s !== null &&
        row.exact !== plan.baseline?.id,
    )
    .map((row) => ({
      label: row.name || `plan ${row.number}`,
      seconds: row.time_s ?? 0,
      error: row.surface?.[key] ?? 0,
      baseline: false,
    }));
  const base = plan.baseline;
  if (base && base.id !== plan.latest.id)
    out.push({
      label: baselineName(plan),
      seconds: base.report.time_s.total,
      error: base.report.surface[key],
      baseline: true,
    });
  return out;
}

function KeepButtons({ plan, desk }: { plan: Plan; desk: Desk }) {
  const client = useQueryClient();
  const path = { params: { path: { id: plan.id } } };
  const keep = useMutation({
    mutationFn: () => data(api.POST("/api/plans/{id}/copy", path)),
    onSuccess: () => client.invalidateQueries({ queryKey: ["plans"] }),
  });
  const base = useMutation({
    mutationFn: () =>
      data(api.PATCH("/api/plans/{id}", { ...path, body: { baseline: plan.latest.id } })),
    onSuccess: (changed) => client.setQueryData(["plan", plan.id], changed),
  });
  const isBase = plan.baseline?.id === plan.latest.id;
  return (
    <span className="ml-auto flex items-center gap-1">
      {keep.data && <span role="status">kept as plan {keep.data.number}</span>}
      <button
        className="quiet"
        disabled={!desk.upToDate || isBase}
        onClick={() => base.mutate()}
        title="Compare with what stands now"
      >
        {isBase ? "this is the baseline" : "make it the baseline"}
      </button>
      <button
        className="quiet"
        disabled={!desk.upToDate || keep.isPending}
        onClick={() => keep.mutate()}
        title="A plan of its own with these settings"
      >
        keep as a plan
      </button>
      <a
        className="quiet"
        href={`/api/versions/${plan.latest.id}/file`}
        download
        title="A 3MF file with the part and every setting, read back to this very plan"
      >
        as a file
      </a>
    </span>
  );
}
