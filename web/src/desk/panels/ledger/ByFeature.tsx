import type { Report } from "../../../api/client";
import { euro, grams, span } from "../../../format";
import { featureOf } from "../../../tokens";
import type { Figures } from "../../state/useDesk";
import type { Go } from "./go";

/**
 * Time by feature, longest first, with grams and money; a row leads to where the feature takes
 * longest.
 */
export function ByFeature({
  figures,
  report,
  go,
}: {
  figures: Figures;
  report: Report | null;
  go: Go;
}) {
  const rows = Object.entries(figures.byFeature).sort((a, b) => b[1] - a[1]);
  const longest = rows[0]?.[1] ?? 1;
  const mark = figures.state === "quick" ? "≈ " : "";
  const entry = (name: string) => report?.ledger.features.find((one) => one.feature === name);
  return (
    <table className="w-full">
      <caption className="sr-only">Time by feature</caption>
      <thead>
        <tr className="narrow text-[12px] text-ink-3">
          <th>
            <span className="sr-only">feature</span>
          </th>
          <th>
            <span className="sr-only">share drawn</span>
          </th>
          <th className="text-right font-normal">time</th>
          <th className="text-right font-normal">share</th>
          <th className="text-right font-normal">g</th>
          <th className="text-right font-normal">€</th>
        </tr>
      </thead>
      <tbody>
        {rows.map(([name, seconds]) => {
          const found = entry(name);
          const label = featureOf(name)?.label ?? name;
          const at = found?.at_mm as [number, number, number] | null | undefined;
          return (
            <tr key={name} data-feature={name}>
              <th scope="row" className="narrow w-28 py-0.5 text-left font-normal">
                {at ? (
                  <button
                    className="word"
                    title="where it takes longest"
                    onClick={() => go.toPlace(at, `${label} takes longest here`)}
                  >
                    {label}
                  </button>
                ) : (
                  label
                )}
              </th>
              <td>
                <div
                  aria-hidden
                  className="h-3"
                  style={{
                    width: `${Math.max(0.5, (100 * seconds) / longest)}%`,
                    background: featureOf(name)?.colour,
                  }}
                />
              </td>
              <td className="w-20 text-right whitespace-nowrap">
                {mark}
                {span(seconds)}
              </td>
              <td className="narrow w-12 text-right text-ink-2">
                {((100 * seconds) / figures.time).toFixed(0)} %
              </td>
              <td className="narrow w-14 text-right">
                {found ? (found.grams > 0 ? grams(found.grams) : "–") : "…"}
              </td>
              <td className="narrow w-14 text-right">
                {found ? euro(found.cost).replace(" €", "") : "…"}
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}
