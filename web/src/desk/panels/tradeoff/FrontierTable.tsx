import type { Frontier } from "../../../api/client";
import { hours } from "../../../format";
import { Sheet } from "../../../frame/Sheet";

type Row = Frontier["points"][number];

/** The trade-off as tables: the frontier, and the even stacks with the rules they break. */
export function FrontierTable({
  frontier,
  onClose,
}: {
  frontier: Frontier;
  onClose: () => void;
}) {
  return (
    <Sheet title="Trade-off" onClose={onClose} wide>
      <Rows
        title="Frontier"
        rows={frontier.points.map((point) => [`${point.layers} layers`, point])}
      />
      <Rows
        title="Even stacks"
        rows={frontier.even.map((point) => [
          `even ${point.layer_height.toFixed(2)} mm`,
          point,
        ])}
      />
    </Sheet>
  );
}

function Rows({ title, rows }: { title: string; rows: [string, Row][] }) {
  return (
    <table className="mt-3 w-full text-right">
      <caption className="text-left font-semibold">{title}</caption>
      <thead>
        <tr>
          {["", "time h", "mean µm", "P95 µm", "max µm", "breaks"].map((name) => (
            <th key={name} className="p-1">
              {name}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {rows.map(([name, row], n) => (
          <tr key={n} className="border-t border-hairline">
            <th scope="row" className="p-1 text-left font-normal">
              {name}
            </th>
            <td className="p-1">{hours(row.time_s)}</td>
            {[row.mean_um, row.p95_um, row.max_um].map((value, k) => (
              <td key={k} className="p-1">
                {value.toFixed(0)}
              </td>
            ))}
            <td className="p-1">{row.breaks.join(", ") || "nothing"}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
