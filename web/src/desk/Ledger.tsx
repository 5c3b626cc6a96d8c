import { FEATURES, type Feature } from "../tokens";
import { span } from "../format";
import type { Figures } from "./useDesk";

/** Where the time goes, longest first; and the time no setting can beat with this much material. */
export function Ledger({ figures, floor }: { figures: Figures; floor: number | null }) {
  const rows = Object.entries(figures.byFeature).sort((a, b) => b[1] - a[1]);
  const longest = rows[0]?.[1] ?? 1;
  const mark = figures.state === "quick" ? "≈ " : "";
  return (
    <div className="p-3">
      <table className="w-full">
        <caption className="sr-only">Time by feature</caption>
        <thead className="sr-only"><tr><th>feature</th><th>share drawn</th><th>time</th><th>share</th></tr></thead>
        <tbody>
          {rows.map(([name, seconds]) => (
            <tr key={name}>
              <th scope="row" className="narrow w-28 py-1 text-left font-normal">{FEATURES[name as Feature]?.label ?? name}</th>
              <td><div aria-hidden className="h-3" style={{ width: `${Math.max(0.5, (100 * seconds) / longest)}%`, background: FEATURES[name as Feature]?.colour }} /></td>
              <td className="w-20 text-right whitespace-nowrap">{mark}{span(seconds)}</td>
              <td className="narrow w-14 text-right text-ink-2">{((100 * seconds) / figures.time).toFixed(0)} %</td>
            </tr>
          ))}
        </tbody>
      </table>
      {floor !== null && (
        <p className="mt-3 border-t border-hairline pt-2 text-[13px] text-ink-2">
          Flow floor <b className="text-ink">{span(floor)}</b>: laying this much material takes at least that long with this nozzle and material, whatever the speeds.
        </p>
      )}
    </div>
  );
}
