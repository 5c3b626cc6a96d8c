import type { Schemas } from "../../../api/client";
import { grams, hours, unbroken } from "../../../format";

/**
 * The least time reachable within what is held, step by step, with the running total; a step is
 * taken with all before it.
 */
export function Chain({
  found,
  onTake,
}: {
  found: Schemas["Proposed"];
  onTake: (change: Record<string, unknown>) => void;
}) {
  const { before, chain } = found;
  const last = chain.at(-1);
  if (!last) return null;
  const saved = 1 - last.after.time_s / before.time_s;
  const upTo = (k: number) =>
    Object.assign({}, ...chain.slice(0, k + 1).map((step) => step.change)) as Record<
      string,
      unknown
    >;
  return (
    <div data-chain>
      <h3 className="font-semibold">
        All the way: {hours(before.time_s)} → {hours(last.after.time_s)} h,{" "}
        {Math.round(100 * saved)} % less
      </h3>
      <table className="w-full text-[13px]">
        <caption className="sr-only">The chain of changes with running totals</caption>
        <thead>
          <tr className="narrow border-b border-edge text-left text-[12px] text-ink-3">
            <th className="font-normal">step</th>
            <th className="pl-2 text-right font-normal">h:min</th>
            <th className="pl-2 text-right font-normal">µm</th>
            <th className="pl-2 text-right font-normal">g</th>
            <th />
          </tr>
        </thead>
        <tbody>
          <tr className="border-b border-hairline text-ink-2">
            <td className="py-1">as it is</td>
            <td className="text-right">{hours(before.time_s)}</td>
            <td className="text-right">{Math.round(before.p95_um)}</td>
            <td className="text-right">{grams(before.mass_g)}</td>
            <td />
          </tr>
          {chain.map((step, k) => (
            <tr
              key={step.sentence}
              data-step={k}
              className="border-b border-hairline align-top"
            >
              <td className="py-1 pr-2">
                <Bar share={step.after.time_s / before.time_s} />
                {unbroken(step.sentence)}
              </td>
              <td className="py-1 pl-2 text-right font-semibold">
                {hours(step.after.time_s)}
              </td>
              <td className="py-1 pl-2 text-right">{Math.round(step.after.p95_um)}</td>
              <td className="py-1 pl-2 text-right">{grams(step.after.mass_g)}</td>
              <td className="py-1 pl-2 text-right whitespace-nowrap">
                <button className="quiet" onClick={() => onTake(upTo(k))}>
                  {k === chain.length - 1 ? "take all" : "up to here"}
                </button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <p className="mt-1 text-[13px] text-ink-2">What is left: {found.rest}</p>
    </div>
  );
}

/** The running total as a bar of what it was. */
const Bar = ({ share }: { share: number }) => (
  <span aria-hidden className="mb-0.5 block h-1.5 bg-hairline">
    <span className="block h-full bg-fjord" style={{ width: `${100 * share}%` }} />
  </span>
);
