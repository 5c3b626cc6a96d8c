import type { Layers } from "../../api/client";
import { HEIGHT_COLOURS, Legend, STEP_COLOURS } from "./Legend";
import type { Spot } from "./Shape";
import { LEAN_RAMP } from "./surfaceMaterial";
import type { View } from "../state/useSight";

/** The scale of what the shape is painted by, and what holds at the place pointed at. */
export function PaintNotes({
  view,
  most,
  limits,
  angle,
  bead,
  spot,
  aside,
}: {
  aside: boolean;
  view: View;
  /** End of the scale of step errors, µm. */
  most: number;
  limits: [number, number];
  /** Degrees from upright beyond which what leans out is held. */
  angle: number;
  /** Width of the outer wall's bead, mm. */
  bead: number;
  spot: Spot | null;
}) {
  return (
    <>
      {view === "steps" && (
        <Legend
          title="step error"
          unit="µm"
          from={0}
          to={most}
          colours={STEP_COLOURS}
          format={(v) => String(Math.round(v))}
        />
      )}
      {view === "heights" && (
        <Legend
          title="layer height"
          unit="mm"
          from={limits[0]}
          to={limits[1]}
          colours={HEIGHT_COLOURS}
          format={(v) => v.toFixed(2)}
        />
      )}
      {view === "leans" && (
        <Legend
          title="leans out"
          unit="°"
          from={angle}
          to={90}
          colours={LEAN_RAMP}
          aside={aside}
          format={(v) => String(Math.round(v))}
        />
      )}
      {spot && (
        <p
          data-spot
          className="narrow absolute right-3 bottom-12 bg-sheet/90 px-2 py-0.5 text-[13px]"
        >
          {spot.point[2].toFixed(2)} mm · layer {spot.layer + 1} · {spot.height.toFixed(2)} mm
          tall ·{" "}
          {view === "leans" ? (
            <b>{leanWords(spot, bead)}</b>
          ) : (
            <>
              <b>step {Math.round(spot.errorUm)} µm</b> · {Math.round(spot.lean)}° from level
            </>
          )}
          {spot.attention === 2 ? " · seen" : spot.attention === 0 ? " · hidden" : ""}
        </p>
      )}
    </>
  );
}

/**
 * How far it leans out, and the tallest layer whose bead still rests with half its width on the one
 * below.
 */
function leanWords({ out, point }: Spot, bead: number): string {
  if (point[2] < 0.02) return "on the bed";
  if (out < 1) return "does not lean out";
  const sine = Math.sin((out * Math.PI) / 180);
  const tallest = (0.5 * bead * Math.sqrt(1 - sine * sine)) / sine;
  const held =
    tallest < 0.005
      ? "no bead holds by itself"
      : `a bead of ${bead} mm holds up to ${tallest.toFixed(2)} mm tall`;
  return `leans out ${Math.round(out)}° from upright · ${held}`;
}

/** The end of a scale of step errors: a round figure not below the largest, and never too small. */
export function scaleEnd(layers: Layers | null): number {
  const largest = layers?.error_um.reduce((a, b) => Math.max(a, b), 20) ?? 200;
  return Math.ceil(largest / 20) * 20;
}
