import { type PointerEvent, useRef, useState } from "react";

import type { Setting } from "../api/client";
import { path } from "../beds/geometry";

type Values = Record<string, unknown>;
interface Place {
  name: string;
  x: number;
  y: number;
  size_x: number;
  size_y: number;
  shape?: string;
}
interface Outline {
  name: string;
  left: number;
  right: number;
  front: number;
  back: number;
  height: number;
  points?: [number, number][];
}

/** Room around the plate, and least size of a drawn place (mm). */
const AROUND = 12;
const LEAST = 2;

/**
 * The plate from above with its keep-out places and what moves with the tip; a place is drawn by
 * dragging. Figures are typed below.
 */
export function PlateMap({
  figures,
  settings,
  onPlaces,
}: {
  figures: Values;
  settings: Setting[];
  onPlaces: (places: Place[]) => void;
}) {
  const svg = useRef<SVGSVGElement>(null);
  const [drawn, setDrawn] = useState<{ from: [number, number]; to: [number, number] } | null>(
    null,
  );
  const of = (key: string) =>
    figures[key] ?? settings.find((setting) => setting.key === key)?.default;
  const num = (key: string) => Number(of(key) ?? 0);
  const [wide, deep] = [num("size_x"), num("size_y")];
  const places = (of("keep_out") ?? []) as Place[];
  const corners = (of("bed_points") ?? []) as [number, number][];
  const at = (event: PointerEvent): [number, number] => {
    const matrix = svg.current?.getScreenCTM();
    if (!matrix) return [0, 0];
    const { x, y } = new DOMPoint(event.clientX, event.clientY).matrixTransform(
      matrix.inverse(),
    );
    return [Math.round(x), Math.round(-y)];
  };
  const done = () => {
    const box = drawn && boxOf(drawn);
    setDrawn(null);
    if (!box || box.size_x < LEAST || box.size_y < LEAST) return;
    onPlaces([...places, { name: `Place ${places.length + 1}`, ...box }]);
  };
  const box = drawn && boxOf(drawn);
  return (
    <figure className="m-0 text-[13px]">
      <svg
        ref={svg}
        viewBox={[
          -wide / 2 - AROUND,
          -deep / 2 - AROUND,
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
        <g className="fill-sheet stroke-ink-3" strokeWidth={wide / 300}>
          {of("bed") === "round" ? (
            <circle r={wide / 2} />
          ) : of("bed") === "polygon" && corners.length > 2 ? (
            <path d={path([corners])} />
          ) : (
            <rect x={-wide / 2} y={-deep / 2} width={wide} height={deep} />
          )}
        </g>
        {places.map((place, k) => (
          <Kept key={k} place={place} size={wide / 40} />
        ))}
        {box && <Kept place={{ name: "", ...box }} size={wide / 40} />}
        <Moving of={of} num={num} stroke={wide / 300} />
      </svg>
      <figcaption className="text-ink-2">
        {box
          ? `${box.size_x} × ${box.size_y} mm at x ${box.x}, y ${box.y}`
          : "Drag on the plate to keep a place free. Dashed: what moves with the tip, drawn " +
            `with the tip in the middle: ${movingParts(of, num)
              .map((part) => `${part.name} from ${part.height} mm above it`)
              .join(", ")}.`}
      </figcaption>
    </figure>
  );
}

function boxOf({ from, to }: { from: [number, number]; to: [number, number] }) {
  return {
    x: (from[0] + to[0]) / 2,
    y: (from[1] + to[1]) / 2,
    size_x: Math.abs(to[0] - from[0]),
    size_y: Math.abs(to[1] - from[1]),
    shape: "box",
  };
}

function Kept({ place, size }: { place: Place; size: number }) {
  const { x, y, size_x: w, size_y: h } = place;
  const thin = size / 12;
  return (
    <g className="fill-hairline/50 stroke-stop" strokeWidth={thin} pointerEvents="none">
      {place.shape === "round" ? (
        <ellipse cx={x} cy={-y} rx={w / 2} ry={h / 2} />
      ) : (
        <rect x={x - w / 2} y={-y - h / 2} width={w} height={h} />
      )}
      <path
        d={`M${x - w / 2},${-y - h / 2}l${w},${h}M${x - w / 2},${-y + h / 2}l${w},${-h}`}
      />
      <text
        x={x - w / 2}
        y={-y - h / 2 - size / 4}
        fontSize={size}
        className="narrow fill-stop stroke-none"
      >
        {place.name}
      </text>
    </g>
  );
}

/** Outlines of head and gantry around the middle. */
function Moving({
  of,
  num,
  stroke,
}: {
  of: (key: string) => unknown;
  num: (key: string) => number;
  stroke: number;
}) {
  return (
    <g
      className="fill-none stroke-fjord"
      strokeWidth={stroke}
      strokeDasharray={`${4 * stroke} ${3 * stroke}`}
      pointerEvents="none"
    >
      {movingParts(of, num).map((part, k) =>
        part.points?.length ? (
          <path key={k} d={path([part.points])} />
        ) : (
          <rect
            key={k}
            x={-part.left}
            y={-part.back}
            width={Math.max(part.left + part.right, 0)}
            height={Math.max(part.front + part.back, 0)}
          />
        ),
      )}
      <circle r={2 * stroke} className="fill-north stroke-none" />
    </g>
  );
}

/** Outlines of the head, or the one of four distances, and the bar of the gantry. */
function movingParts(of: (key: string) => unknown, num: (key: string) => number): Outline[] {
  const outlines = (of("head") ?? []) as Outline[];
  const four: Outline = {
    name: "Head",
    left: num("clear_left"),
    right: num("clear_right"),
    front: num("clear_front"),
    back: num("clear_back"),
    height: 0,
  };
  const bar = of("gantry");
  const along = { left: num("gantry_front"), right: num("gantry_back") };
  const far = num("size_x") + num("size_y");
  const across: Outline[] =
    bar === "none"
      ? []
      : [
          {
            name: "Gantry",
            height: num("gantry_height"),
            ...(bar === "across y"
              ? { ...along, front: far, back: far }
              : { left: far, right: far, front: along.left, back: along.right }),
          },
        ];
  return [...(outlines.length ? outlines : [four]), ...across];
}
