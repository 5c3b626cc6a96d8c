import type { Report } from "../../api/client";
import { Sheet } from "../../frame/Sheet";
import type { Figures } from "../state/useDesk";
import { RULES } from "./rules";
import { SETTING_LANES } from "./settingLanes";

/** The lanes as a table, for reading aloud, copying and checking. */
export function LayerTable({
  figures,
  values,
  onClose,
  onGo,
}: {
  figures: Figures;
  values: Report["lanes"] | null;
  onClose: () => void;
  onGo: (layer: number) => void;
}) {
  const {
    tops_mm: tops,
    heights_mm: heights,
    seconds,
    error_um: errors,
    rule,
  } = figures.layers;
  const own = values?.infill.length === tops.length ? values : null;
  return (
    <Sheet
      title={`${tops.length} layers${figures.state === "quick" ? ", ≈ times" : ""}`}
      onClose={onClose}
      wide
    >
      <table className="mt-2 w-full text-right">
        <thead className="sticky top-0 bg-sheet">
          <tr>
            <th className="p-1">layer</th>
            <th className="p-1">top mm</th>
            <th className="p-1">height mm</th>
            <th className="p-1">time s</th>
            <th className="p-1">step µm</th>
            <th className="p-1 text-left">what decides</th>
            {own &&
              SETTING_LANES.map((lane) => (
                <th key={lane.name} className="p-1">
                  {lane.title.toLowerCase()} {lane.unit === "number" ? "" : lane.unit}
                </th>
              ))}
          </tr>
        </thead>
        <tbody>
          {tops.map((top, k) => (
            <tr key={k} className="border-t border-hairline">
              <td className="p-1">
                <button
                  className="word"
                  onClick={() => {
                    onGo(k);
                    onClose();
                  }}
                >
                  {k + 1}
                </button>
              </td>
              <td className="p-1">{top.toFixed(2)}</td>
              <td className="p-1">{(heights[k] ?? 0).toFixed(2)}</td>
              <td className="p-1">{(seconds[k] ?? 0).toFixed(1)}</td>
              <td className="p-1">{Math.round(errors[k] ?? 0)}</td>
              <td className="p-1 text-left">{rule[k] && RULES[rule[k]].word}</td>
              {own &&
                SETTING_LANES.map((lane) => (
                  <td key={lane.name} className="p-1">
                    {(own[lane.name][k] ?? 0).toFixed(lane.digits)}
                  </td>
                ))}
            </tr>
          ))}
        </tbody>
      </table>
    </Sheet>
  );
}
