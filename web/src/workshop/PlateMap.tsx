import { type PointerEvent, useRef, useState } from "react";

import type { Machine, Schemas } from "../api/client";
import { boxOf, path, type Point } from "../beds/geometry";

/** Room around the plate, and least size of a drawn place (mm). */
const AROUND = 12;
const LEAST = 2;

/** A place as it is kept with the machine's figures. */
interface Place {
  name: string;
  x: number;
  y: number;
  size_x: number;
  size_y: number;
}
interface Span {
  from: Point;
  to: Point;
}

/**
 * The plate from above with its keep-out places and what moves with the tip; a place is drawn by
 * dragging. Figures are typed below.
 */
export function PlateMap({
  machine,
  onPlaces,
}: {
  machine: Machine;
  onPlaces: (places: readonly unknown[]) => void;
}) {
  const svg = useRef<SVGSVGElement>(null);
  const [drawn, setDrawn] = useState<Span | null>(null);
  if (!machine.drawn) return null;
  const { plate, head } = machine.drawn;
  const { low, high } = boxOf(plate.outline[0] ?? []);
  const [wide, deep] = [high[0] - low[0], high[1] - low[1]];
  const thin = wide / 300;
  const at = (event: PointerEvent): Point => {
    const matrix = svg.current?.getScreenCTM();
    if (!matrix) return [0, 0];
    const { x, y } = new DOMPoint(event.clientX, event.clientY).matrixTransform(
      matrix.inverse(),
    );
    return [Math.round(x), Math.round(-y)];
  };
  const done = () => {
    const place = drawn && placeOf(drawn);
    setDrawn(null);
    if (!place || place.size_x < LEAST || place.size_y < LEAST) return;
    const kept = (machine.figures as { keep_out?: unknown[] | null }).keep_out ?? [];
    onPlaces([...kept, { name: `Place ${kept.length + 1}`, shape: "box", ...place }]);
  };
  const place = drawn && placeOf(drawn);
  return (
    <figure className="m-0 text-[13px]">
      <svg
        ref={svg}
        viewBox={[
          low[0] - AROUND,
          -high[1] - AROUND,
          wide + 2 * AROUND,
          deep + 2 * AROUND,
        ].join(" ")}
        className="max-h-72 w-full max-w-md cursor-crosshair touch-none"
        role="img"
        aria-label="The plate from above"
        onPointerDown={(event) => {
          svg.current?.setPointerCapture(event.pointerId);
          setDrawn({ from: at(event), to: at(event) });
        }}
        onPointerMove={(event) => drawn && setDrawn({ ...drawn, to: at(event) })}
        onPointerUp={done}
        onPointerCancel={() => setDrawn(null)}
      >
        <path d={path(plate.outline)} className="fill-sheet stroke-ink-3" strokeWidth={thin} />
        {plate.keep_out.map((kept) => (
          <Kept key={kept.name} kept={kept} size={wide / 40} />
        ))}
        {drawn && <Kept kept={{ name: "", outline: [corners(drawn)] }} size={wide / 40} />}
        <g
          className="fill-none stroke-fjord"
          strokeWidth={thin}
          strokeDasharray={`${4 * thin} ${3 * thin}`}
          pointerEvents="none"
        >
          {head.map((part, k) => (
            <path key={k} d={path(part.outline)} />
          ))}
          <circle r={2 * thin} className="fill-north stroke-none" />
        </g>
      </svg>
      <figcaption className="text-ink-2">
        {place
          ? `${place.size_x} × ${place.size_y} mm at x ${place.x}, y ${place.y}`
          : "Drag on the plate to keep a place free. Dashed: what moves with the tip, drawn " +
            `with the tip in the middle: ${head
              .map((part) => `${part.name} from ${part.above_mm} mm above it`)
              .join(", ")}.`}
      </figcaption>
    </figure>
  );
}

const placeOf = ({ from, to }: Span): Omit<Place, "name"> => ({
  x: (from[0] + to[0]) / 2,
  y: (from[1] + to[1]) / 2,
  size_x: Math.abs(to[0] - from[0]),
  size_y: Math.abs(to[1] - from[1]),
});

const corners = ({ from, to }: Span): number[][] => [
  [from[0], from[1]],
  [to[0], from[1]],
  [to[0], to[1]],
  [from[0], to[1]],
];

/** A place where nothing may stand, crossed out. */
export function Kept({ kept, size }: { kept: Schemas["KeptOut"]; size: number }) {
  const { low, high } = boxOf(kept.outline[0] ?? []);
  return (
    <g pointerEvents="none">
      <path
        d={path(kept.outline)}
        className="fill-hairline/50 stroke-stop"
        strokeWidth={size / 12}
      />
      <path
        d={
          `M${low[0]},${-low[1]}L${high[0]},${-high[1]}` +
          `M${low[0]},${-high[1]}L${high[0]},${-low[1]}`
        }
        className="stroke-stop"
        strokeWidth={size / 12}
      />
      <text x={low[0]} y={-high[1] - size / 4} fontSize={size} className="narrow fill-stop">
        {kept.name}
      </text>
    </g>
  );
}
