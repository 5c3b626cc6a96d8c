import type { Finding } from "../../../api/client";
import { NumberField } from "../NumberField";
import { type Edge, edgeWords } from "./places";

export interface Ties {
  /** Level faces of the part in mm, and findings with a place. */
  flats: number[];
  findings: Finding[];
  /** A point on the bed in the file's coordinates, once the shape is there. */
  toFile: ((point: [number, number, number]) => [number, number, number]) | null;
}

/** An edge of a band: typed in mm, as a layer number, or tied to a thing of the part. */
export function EdgeField({
  label,
  mm,
  edge,
  top,
  ties,
  onMm,
  onEdge,
}: {
  label: string;
  mm: number;
  edge: Edge | null;
  top: number;
  ties: Ties;
  onMm: (mm: number) => void;
  onEdge: (edge: Edge | null) => void;
}) {
  const tie = (value: string) => {
    const [kind = "", which = ""] = value.split(" ");
    const n = Number(which);
    if (kind === "mm") onEdge(null);
    else if (kind === "layer") onEdge({ at: "layer", layer: 1 });
    else if (kind === "foot" || kind === "top") onEdge({ at: kind });
    else if (ties.toFile) {
      const found = kind === "flat" ? undefined : ties.findings[n];
      const place =
        kind === "flat"
          ? ([0, 0, ties.flats[n] ?? 0] as const)
          : ([found?.at_mm?.[0] ?? 0, found?.at_mm?.[1] ?? 0, found?.z_mm ?? 0] as const);
      const [x, y, z] = ties
        .toFile([place[0], place[1], place[2]])
        .map((v) => Number(v.toFixed(4))) as [number, number, number];
      onEdge({
        at: "point",
        x,
        y,
        z,
        label:
          kind === "flat"
            ? `level face at ${place[2].toFixed(2)} mm`
            : `finding '${found?.code}' at ${place[2].toFixed(2)} mm`,
      });
    }
  };
  return (
    <span className="inline-flex flex-wrap items-center gap-1">
      {edge === null ? (
        <NumberField
          label={label}
          unit="mm"
          value={mm}
          min={0}
          max={top}
          step={0.1}
          width="w-16"
          onValue={(v) => v !== null && onMm(v)}
        />
      ) : edge.at === "layer" ? (
        <NumberField
          label={`${label}, layer`}
          unit={`= ${mm.toFixed(2)} mm`}
          value={edge.layer ?? 1}
          min={0}
          max={100000}
          step={1}
          width="w-14"
          onValue={(v) => v !== null && onEdge({ ...edge, layer: Math.round(v) })}
        />
      ) : (
        <span>
          {edgeWords(edge)} = {mm.toFixed(2)} mm
        </span>
      )}
      <select
        className="field w-24"
        aria-label={`${label} is`}
        value={edge === null ? "mm" : edge.at}
        onChange={(event) => tie(event.target.value)}
      >
        <option value="mm">in mm</option>
        <option value="layer">top of layer …</option>
        <option value="foot">end of the solid foot</option>
        <option value="top">top of the part</option>
        {edge?.at === "point" && <option value="point">{edgeWords(edge)}</option>}
        {ties.toFile && ties.flats.length > 0 && (
          <optgroup label="level faces">
            {ties.flats.map((z, k) => (
              <option key={k} value={`flat ${k}`}>
                level face at {z.toFixed(2)} mm
              </option>
            ))}
          </optgroup>
        )}
        {ties.toFile && ties.findings.length > 0 && (
          <optgroup label="findings">
            {ties.findings.map((entry, k) => (
              <option key={entry.code} value={`finding ${k}`}>
                {entry.code} at {(entry.z_mm ?? 0).toFixed(2)} mm
              </option>
            ))}
          </optgroup>
        )}
      </select>
    </span>
  );
}
