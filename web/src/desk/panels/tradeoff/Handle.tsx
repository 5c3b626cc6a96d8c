import type { ScaleLinear } from "d3-scale";
import { type KeyboardEvent, type PointerEvent, useState } from "react";

import { hours } from "../../../format";
import { INK, NORTH, SHEET } from "../../../tokens";
import { freest, PAD, type Spot } from "./spots";

/** The handle: where the plan is, and the one of the two values that is asked for. */
export interface Target {
  seconds: number;
  error: number;
  ask: "target" | "cap";
  /** The value asked for: µm or minutes; null while heights are even. */
  value: number | null;
  mark: string;
}

/** A place on the chart by what it means. */
export interface Place {
  minutes: number;
  error: number;
}

/** The target as a handle that is dragged or nudged, with a tag that says what comes of it. */
export function Handle({
  target,
  x,
  y,
  width,
  height,
  drawn,
  onTake,
  onSlide,
  onSettle,
}: {
  target: Target;
  /** Of minutes, and of µm. */
  x: ScaleLinear<number, number>;
  y: ScaleLinear<number, number>;
  width: number;
  height: number;
  /** What the tag is to keep clear of. */
  drawn: Spot[];
  /** A hand takes the handle, and lets it go. */
  onTake: (held: boolean) => void;
  onSlide: (at: Place) => void;
  onSettle: (at: Place) => void;
}) {
  /** Where the hand holds the handle, while it does. */
  const [held, setHeld] = useState<Place | null>(null);
  const at = (event: PointerEvent<SVGElement>): Place => {
    const bounds = (
      event.currentTarget.ownerSVGElement ?? (event.currentTarget as unknown as SVGSVGElement)
    ).getBoundingClientRect();
    return {
      minutes: Math.max(1, x.invert(event.clientX - bounds.left)),
      error: Math.max(1, y.invert(event.clientY - bounds.top)),
    };
  };
  const hx = x(
    target.ask === "cap" && target.value !== null ? target.value : target.seconds / 60,
  );
  const hy = y(target.ask === "target" && target.value !== null ? target.value : target.error);
  const words =
    target.value === null
      ? "drag to set a target"
      : target.ask === "target"
        ? `target ${Math.round(target.value)} µm`
        : `within ${hours(60 * target.value)} h`;
  const result =
    `${target.mark}${Math.round(target.error)} µm · ` +
    `${target.mark}${hours(target.seconds)} h`;
  const tag = 8 + 6.4 * Math.max(words.length, result.length);
  const [tagX, tagY] = freest(
    [hx, hy],
    [tag, 36],
    [PAD.left, width - 4, PAD.top, height - PAD.bottom - 2],
    drawn,
  );
  const nudge = (event: KeyboardEvent) => {
    // more time is to the right, more error up: for a target the two point opposite ways
    const by = {
      ArrowUp: 1,
      ArrowRight: target.ask === "target" ? -1 : 1,
      ArrowDown: -1,
      ArrowLeft: target.ask === "target" ? 1 : -1,
    }[event.key];
    if (!by) return;
    event.preventDefault();
    const next = (now: number) =>
      Math.max(1, Math.round(target.value ?? now) + by * (event.shiftKey ? 10 : 1));
    const [minutes, error] = [target.seconds / 60, target.error];
    onSettle(
      target.ask === "target"
        ? { minutes, error: next(error) }
        : { minutes: next(minutes), error },
    );
  };
  const letGo = () => {
    if (held) onSettle(held);
    setHeld(null);
    onTake(false);
  };
  return (
    <>
      <path
        d={
          target.ask === "target"
            ? `M${PAD.left} ${hy}H${hx}`
            : `M${hx} ${height - PAD.bottom}V${hy}`
        }
        stroke={NORTH}
        strokeDasharray="2 3"
      />
      <g aria-hidden>
        <rect x={tagX} y={tagY} width={tag} height={36} fill={SHEET} stroke={NORTH} />
        <text x={tagX + 5} y={tagY + 15} fontSize="12" fontWeight="600" fill={NORTH}>
          {words}
        </text>
        <text x={tagX + 5} y={tagY + 30} fontSize="12" fill={INK}>
          {result}
        </text>
      </g>
      <g
        role="slider"
        tabIndex={0}
        data-handle="target"
        aria-label={
          target.ask === "target" ? "Surface target on the chart" : "Time cap on the chart"
        }
        className="cursor-grab"
        aria-valuenow={Math.round(
          target.value ?? (target.ask === "target" ? target.error : target.seconds / 60),
        )}
        aria-valuetext={`${words}, ${result}`}
        onKeyDown={nudge}
        onPointerDown={(event) => {
          event.currentTarget.setPointerCapture(event.pointerId);
          setHeld(at(event));
          onTake(true);
        }}
        onPointerMove={(event) => {
          if (held) {
            setHeld(at(event));
            onSlide(at(event));
          }
        }}
        onPointerUp={letGo}
        onPointerCancel={letGo}
      >
        <circle cx={hx} cy={hy} r={22} fill="transparent" />
        <circle cx={hx} cy={hy} r={9} fill={SHEET} stroke={SHEET} strokeWidth="6" />
        <circle cx={hx} cy={hy} r={8} fill={SHEET} stroke={NORTH} strokeWidth="2.5" />
        <circle cx={hx} cy={hy} r={3} fill={NORTH} />
      </g>
    </>
  );
}
