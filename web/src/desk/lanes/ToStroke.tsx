import { signedSpan, signedUm } from "../../format";
import { NumberField } from "../panels/NumberField";
import { useRoom } from "../state/room";
import { BRUSH_BOUNDS, type Does } from "./strokes";
import type { LanesState } from "./useLanes";

const DOES: readonly Does[] = ["finer", "taller", "even out"];

/** The brush over the layer heights: what it does, how wide and strong, and what it came to. */
export function ToStroke({ lanes }: { lanes: LanesState }) {
  const { hands, tops, layer } = lanes;
  const { brush, strokes } = hands;
  const z = tops[layer] ?? 0;
  return (
    <div
      role="group"
      aria-label="Brush"
      className="flex flex-wrap items-center gap-2 text-[13px]"
    >
      <span className="flex">
        {DOES.map((does) => (
          <button
            key={does}
            className="quiet"
            aria-pressed={brush.does === does}
            onClick={() => hands.setBrush({ ...brush, does })}
          >
            {does}
          </button>
        ))}
      </span>
      {brush.does !== "even out" && (
        <label className="flex items-center gap-1">
          by
          <NumberField
            label="Strength of the stroke"
            unit="%"
            value={brush.strength}
            min={BRUSH_BOUNDS.strength[0]}
            max={BRUSH_BOUNDS.strength[1]}
            step={5}
            width="w-12"
            onValue={(v) => v && hands.setBrush({ ...brush, strength: v })}
          />
        </label>
      )}
      <label className="flex items-center gap-1" title="The wheel over the lanes, too">
        wide
        <NumberField
          label="Width of the stroke"
          unit="mm"
          value={brush.wide}
          min={BRUSH_BOUNDS.wide[0]}
          max={BRUSH_BOUNDS.wide[1]}
          step={1}
          width="w-12"
          onValue={(v) => v && hands.setBrush({ ...brush, wide: v })}
        />
      </label>
      <button className="quiet" onClick={() => hands.addStroke(z, z)}>
        stroke at the cursor
      </button>
      <Came lanes={lanes} />
      {strokes.length > 0 && (
        <>
          <button className="quiet" onClick={() => hands.setStrokes(strokes.slice(0, -1))}>
            without the last
          </button>
          <button className="quiet" onClick={() => hands.setStrokes([])}>
            without all {strokes.length}
          </button>
        </>
      )}
    </div>
  );
}

/** What the strokes came to. */
function Came({ lanes }: { lanes: LanesState }) {
  const { desk } = useRoom();
  const { by_hand: came } = lanes.figures.surface;
  if (!came) return <span className="text-ink-2">Brush over the lanes.</span>;
  return (
    <span role="status" data-came>
      {!desk.upToDate && "≈ "}
      <b>{signedSpan(came.seconds)}</b>, {signedUm(came.p95_um)} P95, {signedUm(came.mean_um)}{" "}
      mean
    </span>
  );
}
