import { clsx } from "clsx";
import { Link } from "react-router";

import type { PlanRow } from "../api/client";
import { OPEN } from "../api/hooks";
import { day, grams, hours, outcomes } from "../format";
import type { PlanSort, Wish } from "../library/useLibrary";
import type { Ticks } from "../library/useTicks";
import { Picture } from "../parts/Picture";

/** Columns that sort: by what, their words, which way first, and whether figures stand right. */
const COLUMNS: readonly (readonly [PlanSort, string, boolean, boolean?])[] = [
  ["part", "part", false],
  ["plan", "plan", true],
  ["machine", "on", false],
  ["material", "in", false],
  ["time", "time h:min", true, true],
  ["mass", "filament g", true, true],
  ["cost", "money", true, true],
  ["error", "P95 µm", true, true],
  ["findings", "findings", true],
  ["printed", "last printed", true],
  ["success", "came out well", true],
];

/** Plans as a table whose columns sort, each row to be ticked. */
export function PlanTable({
  rows,
  ticks,
  wish,
  onSort,
}: {
  rows: readonly PlanRow[];
  ticks: Ticks<PlanRow>;
  wish: Wish<PlanSort>;
  onSort: (sort: PlanSort, down: boolean) => void;
}) {
  return (
    <div className="overflow-x-auto">
      <table className="card w-full border-collapse">
        <thead>
          <tr className="narrow text-left text-[13px] text-ink-3">
            <th className="p-2">
              <input
                type="checkbox"
                className="accent-ink"
                aria-label="Tick all that are shown"
                checked={rows.every(ticks.has)}
                onChange={(event) => ticks.setShown(rows, event.target.checked)}
              />
            </th>
            <th className="p-2" />
            {COLUMNS.map(([sort, words, down, right]) => (
              <th
                key={words}
                className={clsx("p-2 font-normal", right && "text-right")}
                aria-sort={
                  wish.sort !== sort ? undefined : wish.down ? "descending" : "ascending"
                }
              >
                <button
                  className="narrow cursor-pointer border-0 bg-transparent p-0 underline"
                  onClick={() => onSort(sort, down)}
                >
                  {words}
                  {wish.sort === sort && (wish.down ? " ↓" : " ↑")}
                </button>
              </th>
            ))}
            <th className="p-2 font-normal">state</th>
          </tr>
        </thead>
        <tbody>
          {rows.map((plan) => (
            <tr key={plan.id} className="border-t border-hairline hover:bg-paper">
              <td className="p-2">
                <input
                  type="checkbox"
                  className="accent-ink"
                  aria-label={`Tick plan ${plan.number}`}
                  checked={ticks.has(plan)}
                  onChange={(event) => ticks.set(plan, event.target.checked)}
                />
              </td>
              <td className="p-1">
                <Picture address={plan.picture} name={plan.part_name} size={44} />
              </td>
              <td className="p-2 font-semibold">
                <Link className="text-fjord underline" to={`/plans/${plan.id}`}>
                  {plan.part_name}
                </Link>
              </td>
              <td className="p-2">
                {plan.number}
                {plan.name && `, ${plan.name}`}
                {plan.verdict && (
                  <span className="block text-[13px] text-ink-2">{plan.verdict}</span>
                )}
              </td>
              <td className="p-2">{plan.machine}</td>
              <td className="p-2">{plan.material}</td>
              <td className="p-2 text-right">
                {plan.time_s === null ? "–" : hours(plan.time_s)}
              </td>
              <td className="p-2 text-right">
                {plan.mass_g === null ? "–" : grams(plan.mass_g)}
              </td>
              <td className="p-2 text-right">
                {plan.cost == null ? "–" : plan.cost.toFixed(2)}
              </td>
              <td className="p-2 text-right">
                {plan.surface ? Math.round(plan.surface.p95_um) : "–"}
              </td>
              <td className="p-2">
                {plan.stops == null ? (
                  "–"
                ) : plan.stops + (plan.looks ?? 0) === 0 ? (
                  "none"
                ) : (
                  <>
                    {plan.stops > 0 && <b className="text-stop">{plan.stops} stop </b>}
                    {(plan.looks ?? 0) > 0 && `${plan.looks} look`}
                  </>
                )}
              </td>
              <td className="p-2 whitespace-nowrap">
                {plan.printed ? day(plan.printed) : "never"}
              </td>
              <td className="p-2 whitespace-nowrap">{outcomes(plan)}</td>
              <td className="p-2">
                {OPEN.includes(plan.state)
                  ? "computing …"
                  : plan.state === "done"
                    ? "exact"
                    : plan.state}
                {plan.state !== "done" && plan.time_s !== null && (
                  <span className="block text-[13px] text-ink-2">
                    figures of the version before
                  </span>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
