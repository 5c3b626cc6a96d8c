import { Sheet } from "../../frame/Sheet";
import type { Figures } from "../useDesk";
import { RULES } from "./rules";

/** The lanes as a table, for reading aloud, copying and checking. */
export function LayerTable({ figures, onClose, onGo }: { figures: Figures; onClose: () => void; onGo: (layer: number) => void }) {
  const { tops_mm: tops, heights_mm: heights, seconds, error_um: errors, rule } = figures.layers;
  return (
    <Sheet title={`${tops.length} layers${figures.state === "quick" ? ", ≈ times" : ""}`} onClose={onClose} wide>
      <table className="mt-2 w-full text-right">
        <thead className="sticky top-0 bg-sheet"><tr><th className="p-1">layer</th><th className="p-1">top mm</th><th className="p-1">height mm</th><th className="p-1">time s</th><th className="p-1">step µm</th><th className="p-1 text-left">what decides</th></tr></thead>
        <tbody>
          {tops.map((top, k) => (
            <tr key={k} className="border-t border-hairline">
              <td className="p-1"><button className="word" onClick={() => { onGo(k); onClose(); }}>{k + 1}</button></td>
              <td className="p-1">{top.toFixed(2)}</td><td className="p-1">{(heights[k] ?? 0).toFixed(2)}</td><td className="p-1">{(seconds[k] ?? 0).toFixed(1)}</td>
              <td className="p-1">{Math.round(errors[k] ?? 0)}</td><td className="p-1 text-left">{rule[k] && RULES[rule[k]].word}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </Sheet>
  );
}
