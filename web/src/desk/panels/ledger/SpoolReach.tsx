import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { api, data, type Plan } from "../../../api/client";
import { useMaterials, useSettings } from "../../../api/hooks";
import { grams, signedSpan } from "../../../format";
import { clock } from "../../../jobs/words";
import { withChanges } from "../../state/changes";
import { NumberField } from "../NumberField";
import type { Desk } from "../../state/useDesk";

/**
 * How many copies the spools give, where each runs out and when, and what would make one more fit.
 */
export function SpoolReach({ plan, desk }: { plan: Plan; desk: Desk }) {
  const settings = useSettings().data ?? [];
  const material = useMaterials().data?.find((entry) => entry.id === plan.latest.material);
  const [copies, setCopies] = useState(4);
  const [chosen, setChosen] = useState<number[] | null>(null);
  const [start, setStart] = useState("");
  const spools =
    chosen ??
    (plan.latest.spool
      ? [plan.latest.spool]
      : (material?.spools.slice(0, 1).map((spool) => spool.id) ?? []));
  const ready = plan.exact !== null && desk.upToDate && spools.length > 0;
  const reach = useQuery({
    queryKey: ["reach", plan.exact?.id, spools, copies, start],
    queryFn: () =>
      data(
        api.POST("/api/plans/{id}/reach", {
          params: { path: { id: plan.id } },
          body: { spools, copies, ...(start ? { start: new Date(start).toISOString() } : {}) },
        }),
      ),
    enabled: ready,
    placeholderData: (before) => before,
  });
  const take = (change: Record<string, unknown>) =>
    desk.change(withChanges(desk.choice, change, settings));
  const found = reach.data;
  return (
    <section aria-label="Spool" className="border-t border-hairline pt-2 text-[13px]">
      <div className="flex flex-wrap items-center gap-x-3 gap-y-1">
        <h3 className="font-semibold">Spools</h3>
        {material?.spools.map((spool) => (
          <label key={spool.id} className="flex items-center gap-1">
            <input
              type="checkbox"
              className="accent-ink"
              checked={spools.includes(spool.id)}
              onChange={(event) =>
                setChosen(
                  event.target.checked
                    ? [...spools, spool.id]
                    : spools.filter((one) => one !== spool.id),
                )
              }
            />
            {spool.label}{" "}
            <span className="text-ink-2">
              {grams(spool.usable_mass - spool.reserved)} g free
            </span>
          </label>
        ))}
        <NumberField
          label="Copies to make"
          unit="copies"
          value={copies}
          min={1}
          max={10000}
          step={1}
          width="w-14"
          onValue={(v) => setCopies(Math.round(v ?? 1))}
        />
        <label className="flex items-center gap-1">
          from{" "}
          <input
            type="datetime-local"
            className="field"
            aria-label="Start"
            value={start}
            onChange={(event) => setStart(event.target.value)}
          />
        </label>
      </div>
      {spools.length === 0 && <p className="mt-1 text-ink-2">Choose at least one spool.</p>}
      {reach.error && (
        <p role="alert" className="mt-1 text-stop">
          {reach.error.message}
        </p>
      )}
      {!ready && spools.length > 0 && (
        <p className="mt-1 text-ink-2">This comes with the exact plan.</p>
      )}
      {found && ready && (
        <div className="mt-1 flex flex-col gap-1" data-reach>
          <p>
            <b>{found.copies} of these</b>, {grams(found.left_over_g)} g left over. {copies}{" "}
            {copies === 1 ? "copy" : "copies"} from {start ? clock(start) : "now"} on: done{" "}
            {clock(found.end)}
            {found.missing_g > 0 && (
              <b className="text-look">, ▲ {grams(found.missing_g)} g are missing</b>
            )}
            .
          </p>
          {found.runs_out.map((end) => (
            <p key={end.label} data-runs-out={end.label} className="text-look">
              ▲ {end.label} runs out in copy {end.copy}, layer {end.layer} at{" "}
              {end.z_mm.toFixed(2)} mm, {clock(end.at)}.
            </p>
          ))}
          <p>
            {found.lighter_g.toFixed(2)} g lighter each and {found.one_more} fit
            {found.ways.length ? ":" : "; neither infill, walls nor a few layers reach that."}
          </p>
          {found.ways.length > 0 && (
            <ul className="flex flex-col gap-1">
              {found.ways.map((way) => (
                <li
                  key={way.words}
                  data-way={Object.keys(way.change).join(" ")}
                  className="flex items-center gap-2"
                >
                  <button className="quiet" onClick={() => take(way.change)}>
                    take
                  </button>
                  {way.words}
                  <span className="text-ink-2">
                    ≈ {way.grams.toFixed(1)} g, {signedSpan(way.seconds)} a part
                  </span>
                </li>
              ))}
            </ul>
          )}
        </div>
      )}
    </section>
  );
}
