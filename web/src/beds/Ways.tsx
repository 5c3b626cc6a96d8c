import { clsx } from "clsx";

import type { Schemas } from "../api/client";
import { featureOf } from "../tokens";
import { count, hours, metres, signedSpan, span } from "../format";
import type { BedRoom } from "./useBed";

type Way = Schemas["Breakdown"];
const NAMES: Record<string, string> = {
  together: "together",
  "in-turn": "in turn",
  groups: "in groups",
  "one-by-one": "one by one",
};

/** The ways to lay the bed beside each other: the same rows for all; one press takes one. */
export function Ways({ here }: { here: BedRoom }) {
  const ways = here.report?.ways;
  if (!ways) return null;
  const [now] = ways;
  if (!now) return null;
  const rows = [...new Set(ways.flatMap((way) => Object.keys(way.rows)))];
  const shown = rows
    .filter((row) => ways.some((way) => (way.rows[row] ?? 0) >= 0.5))
    .sort((a, b) => (now.rows[b] ?? 0) - (now.rows[a] ?? 0));
  return (
    <div className="overflow-auto">
      <table className="w-full border-collapse text-[13px]" aria-label="Ways to lay the bed">
        <thead>
          <tr className="text-right">
            <th className="p-1.5 text-left font-normal text-ink-3">h:min</th>
            {ways.map((way) => (
              <th
                key={`${way.way} ${way.heights}`}
                className="p-1.5 align-top"
                data-way={way.way}
                data-heights={way.heights}
              >
                <span className={clsx("block", way === now && "font-bold")}>
                  {NAMES[way.way] ?? way.way}
                </span>
                {now.heights === "one" && way.way !== "one-by-one" && (
                  <span className="narrow block text-[12px] font-normal text-ink-2">
                    {way.heights === "one" ? "one stack for all" : "heights of their own"}
                  </span>
                )}
                <span className="block text-[19px] leading-tight font-semibold">
                  {hours(way.total_s)}
                </span>
                <Take here={here} way={way} now={now} />
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {shown.map((row) => (
            <tr key={row} className="border-t border-hairline text-right">
              <th scope="row" className="p-1 text-left font-normal">
                {featureOf(row)?.label ?? row}
              </th>
              {ways.map((way) => {
                const by = (way.rows[row] ?? 0) - (now.rows[row] ?? 0);
                return (
                  <td key={`${way.way} ${way.heights}`} className="p-1">
                    {span(way.rows[row] ?? 0)}
                    {way !== now && Math.abs(by) >= 0.5 && (
                      <span className="block text-[12px] text-ink-2">{signedSpan(by)}</span>
                    )}
                  </td>
                );
              })}
            </tr>
          ))}
          <Counted ways={ways} name="passes" of={(way) => count(way.passes)} />
          <Counted ways={ways} name="moves up and down" of={(way) => count(way.z_moves)} />
          <Counted ways={ways} name="retractions" of={(way) => count(way.retractions)} />
          <Counted
            ways={ways}
            name="travel between, m"
            of={(way) => metres(way.travel_between_mm)}
          />
        </tbody>
      </table>
      <OneStack here={here} />
    </div>
  );
}

const MEASURES: Record<string, string> = { mean: "mean", p95: "P95", max: "max" };

/** What one stack of layers for all parts is, or would be, beside heights of their own. */
function OneStack({ here }: { here: BedRoom }) {
  const stack = here.report?.stack;
  if (!stack) return null;
  const chosen = here.spec?.heights === "one";
  const measure = MEASURES[stack.measure] ?? stack.measure;
  return (
    <section
      className="border-t border-hairline p-2 text-[13px]"
      aria-label="One stack for all"
    >
      <p>
        <strong>One stack for all</strong>: {count(stack.passes)} passes instead of{" "}
        {count(stack.own_passes)}, ≈ {hours(stack.seconds)} instead of ≈{" "}
        {hours(stack.own_seconds)} h without the ways between; step error {measure} over all
        parts {Math.round(stack.reached_um)} µm.{" "}
        <button
          className="quiet"
          onClick={() => here.set({ heights: chosen ? "own" : "one" })}
        >
          {chosen ? "heights of their own" : "take one stack"}
        </button>
      </p>
      <table className="mt-1 border-collapse" aria-label="Step error of each part">
        <thead>
          <tr className="narrow text-right text-ink-3">
            <th className="p-1 text-left font-normal">step error {measure}, µm</th>
            <th className="p-1 font-normal">own</th>
            <th className="p-1 font-normal">one stack</th>
          </tr>
        </thead>
        <tbody>
          {stack.plans.map((plan) => (
            <tr key={plan.plan} className="border-t border-hairline text-right">
              <th scope="row" className="p-1 text-left font-normal">
                {plan.name}
              </th>
              <td className="p-1">{Math.round(plan.own_um)}</td>
              <td className="p-1">{Math.round(plan.um)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

function Counted({ ways, name, of }: { ways: Way[]; name: string; of: (way: Way) => string }) {
  return (
    <tr className="border-t border-hairline text-right text-ink-2">
      <th scope="row" className="p-1 text-left font-normal">
        {name}
      </th>
      {ways.map((way) => (
        <td key={`${way.way} ${way.heights}`} className="p-1">
          {of(way)}
        </td>
      ))}
    </tr>
  );
}

function Take({ here, way, now }: { here: BedRoom; way: Way; now: Way }) {
  if (way === now)
    return (
      <span className="narrow block text-[12px] font-normal text-ink-2">as it is now</span>
    );
  const by = (
    <span className="block text-[12px] font-normal">
      {signedSpan(way.total_s - now.total_s)}
    </span>
  );
  if (way.way === "one-by-one") return by;
  return (
    <>
      {by}
      <button
        className="quiet mt-0.5"
        title={way.against || undefined}
        onClick={() => here.set({ way: way.way as "together", heights: way.heights as "own" })}
      >
        take it
      </button>
      {way.against && (
        <span className="narrow block text-[12px] font-normal text-stop">■ head hits</span>
      )}
    </>
  );
}
