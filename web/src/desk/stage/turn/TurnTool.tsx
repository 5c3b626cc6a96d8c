import { useMemo } from "react";

import { useRoom } from "../../state/room";
import { about, AXES, leaningOut } from "./turning";
import type { TurnControl } from "./useTurn";

/** What is turned and by how much, what leans out then, and the same by keys. */
export function TurnTool({ turn, angle }: { turn: TurnControl; angle: number }) {
  const { placed } = useRoom();
  const { turning, snap } = turn;
  const out = useMemo(
    () =>
      placed.shape &&
      leaningOut(
        placed.shape.geometry,
        about(turning?.axis ?? "z", turning?.degrees ?? 0),
        angle,
      ),
    [placed.shape, turning, angle],
  );
  return (
    <div
      role="group"
      aria-label="Turn the part"
      className="absolute top-11 left-3 z-[5] w-72 border border-edge bg-sheet p-2 text-[13px]"
    >
      <p>Drag a ring: red about x, green-blue about y, dark about z. Shift goes by 1°.</p>
      <div className="mt-1 flex flex-wrap items-center gap-1">
        by
        {([1, 15] as const).map((step) => (
          <button
            key={step}
            className="quiet"
            aria-pressed={snap === step}
            onClick={() => turn.setSnap(step)}
          >
            {step}°
          </button>
        ))}
      </div>
      <div className="mt-1 flex flex-wrap items-center gap-1">
        {AXES.map((axis) => (
          <span key={axis} className="flex items-center">
            <button
              className="quiet"
              aria-label={`Turn by −${snap}° about ${axis}`}
              onClick={() => turn.take(axis, -snap)}
            >
              −
            </button>
            <span className="px-1">{axis}</span>
            <button
              className="quiet"
              aria-label={`Turn by ${snap}° about ${axis}`}
              onClick={() => turn.take(axis, snap)}
            >
              +
            </button>
          </span>
        ))}
      </div>
      <p role="status" className="mt-1" data-leans-out>
        {turning && `about ${turning.axis}: ${turning.degrees}° · `}
        {out === undefined ? "" : `${out.toFixed(0)} mm² lean out beyond ${angle}°`}
      </p>
    </div>
  );
}
