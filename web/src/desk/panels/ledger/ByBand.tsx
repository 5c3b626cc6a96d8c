import type { Schemas } from "../../../api/client";
import { euro, grams, plain, span } from "../../../format";

/** Time, grams and money of each band, and of the rest of the part. */
export function ByBand({
  ledger,
  toHeight,
  stale,
}: {
  ledger: Schemas["Ledger"];
  toHeight: (z: number) => void;
  stale: boolean;
}) {
  if (ledger.bands.length === 0)
    return (
      <p className="text-ink-2">The plan has no bands; Places and the lanes make them.</p>
    );
  const longest = Math.max(...ledger.bands.map((band) => band.seconds), 1);
  return (
    <table className={`w-full ${stale ? "opacity-60" : ""}`}>
      <caption className="sr-only">Time by band</caption>
      <tbody>
        {ledger.bands.map((band) => {
          const { from_mm: low, to_mm: high } = band;
          return (
            <tr key={`${band.name} ${low}`} data-band={band.name}>
              <th scope="row" className="narrow py-0.5 text-left font-normal">
                {low !== null && high !== null ? (
                  <button className="word" onClick={() => toHeight((low + high) / 2)}>
                    {band.name}
                  </button>
                ) : (
                  band.name
                )}
                <span className="text-ink-3">
                  {low !== null && high !== null && ` ${plain(low)} to ${plain(high)} mm`}
                </span>
              </th>
              <td className="w-32">
                <div
                  aria-hidden
                  className="h-3 bg-fjord"
                  style={{ width: `${(100 * band.seconds) / longest}%` }}
                />
              </td>
              <td className="w-20 text-right">{span(band.seconds)}</td>
              <td className="narrow w-16 text-right">{grams(band.grams)} g</td>
              <td className="narrow w-16 text-right">{euro(band.cost)}</td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}
