import type { PointerEvent } from "react";

import { FJORD, NORTH, SHEET } from "../../tokens";
import type { Setting } from "../../api/client";
import { type Band, bandWords } from "../panels/places/places";
import type { RegionLines } from "../panels/places/useRegionLines";
import type { Pin } from "./rules";
import type { HeightStroke } from "./strokes";

interface Place {
  /** Pixel of a height, and the height under a pixel. */
  at: (z: number) => number;
  left: number;
  right: number;
}

/** Bands across all lanes, with a title and edges that are dragged. */
export function BandMarks({
  bands,
  settings,
  chosen,
  place,
  top,
  bottom,
  onChoose,
  onEdge,
}: {
  bands: Band[];
  settings: Setting[];
  chosen: number | null;
  place: Place;
  top: number;
  bottom: number;
  onChoose: (n: number) => void;
  onEdge: (n: number, edge: "from_mm" | "to_mm", event: PointerEvent<SVGElement>) => void;
}) {
  return (
    <g>
      {bands.map((band, n) => {
        const x0 = Math.max(place.left, place.at(band.from_mm));
        const x1 = Math.min(place.right, place.at(band.to_mm));
        if (x1 <= x0) return null;
        const words =
          `${band.name || "band"} ${band.from_mm.toFixed(2)} → ` +
          `${band.to_mm.toFixed(2)}: ${bandWords(band, settings)}`;
        // as much of its title as there is room for
        const fitting = [
          words,
          `${band.name || "band"} ${band.from_mm.toFixed(2)} → ${band.to_mm.toFixed(2)}`,
          band.name || "band",
        ].find((text) => text.length * 6.2 + 6 < x1 - x0);
        return (
          <g key={n} data-band={n}>
            <rect
              x={x0}
              y={top + 15}
              width={x1 - x0}
              height={bottom - top - 15}
              fill={FJORD}
              fillOpacity={chosen === n ? 0.14 : 0.07}
              pointerEvents="none"
            />
            <g
              className="cursor-pointer"
              onPointerDown={(event) => event.stopPropagation()}
              onClick={() => onChoose(n)}
            >
              <rect x={x0} y={top} width={x1 - x0} height={15} fill={FJORD} />
              {fitting && (
                <text x={x0 + 4} y={top + 12} fontSize="12" fill={SHEET}>
                  {fitting}
                </text>
              )}
              <title>{words}</title>
            </g>
            {(["from_mm", "to_mm"] as const).map((edge) => {
              const x = edge === "from_mm" ? x0 : x1;
              return (
                <g
                  key={edge}
                  className="cursor-ew-resize"
                  data-edge={edge}
                  onPointerDown={(event) => onEdge(n, edge, event)}
                >
                  <line x1={x} x2={x} y1={top} y2={bottom} stroke={FJORD} strokeWidth="1.5" />
                  <rect
                    x={x - 5}
                    y={top + 15}
                    width={10}
                    height={bottom - top - 15}
                    fill="transparent"
                  />
                </g>
              );
            })}
          </g>
        );
      })}
    </g>
  );
}

/** How far regions reach along the height: a bracket over the part for each. */
export function RegionSpans({
  lines,
  place,
  y,
}: {
  lines: RegionLines[];
  place: Place;
  y: number;
}) {
  return (
    <g aria-label="Regions along the height">
      {lines.map((line, n) => {
        if (line.from_mm === null || line.to_mm === null) return null;
        const [x0, x1] = [
          Math.max(place.left, place.at(line.from_mm)),
          Math.min(place.right, place.at(line.to_mm)),
        ];
        return (
          x1 > x0 && (
            <g key={n} data-region-span={n}>
              <path
                d={`M${x0} ${y + 3}v-5H${x1}v5`}
                fill="none"
                stroke={FJORD}
                strokeWidth="1.2"
              />
              <text
                x={x0 + 3}
                y={y + 9}
                fontSize="12"
                fill={FJORD}
                stroke={SHEET}
                strokeWidth="3"
                paintOrder="stroke"
              >
                {n + 1}
              </text>
            </g>
          )
        );
      })}
    </g>
  );
}

/** Pins in the height lane; dragged up and down they change the height they hold. */
export function PinMarks({
  pins,
  chosen,
  place,
  up,
  top,
  onChoose,
  onDrag,
}: {
  pins: Pin[];
  chosen: number | null;
  place: Place;
  up: (h: number) => number;
  top: number;
  onChoose: (n: number) => void;
  onDrag: (n: number, event: PointerEvent<SVGElement>) => void;
}) {
  return (
    <g>
      {pins.map((pin, n) => {
        const x = place.at(pin.z_mm);
        if (x < place.left || x > place.right) return null;
        const y = up(pin.height_mm);
        return (
          <g
            key={n}
            data-pin={n}
            className="cursor-ns-resize"
            onPointerDown={(event) => onDrag(n, event)}
            onClick={() => onChoose(n)}
          >
            <line x1={x} x2={x} y1={top} y2={y} stroke={FJORD} />
            <circle cx={x} cy={y} r={12} fill="transparent" />
            <circle
              cx={x}
              cy={y}
              r={chosen === n ? 6 : 5}
              fill={FJORD}
              stroke={SHEET}
              strokeWidth="1.5"
            />
            <text
              x={x + 8}
              y={top + 9}
              fontSize="12"
              fill={FJORD}
              stroke={SHEET}
              strokeWidth="3"
              paintOrder="stroke"
            >
              pin {pin.z_mm.toFixed(2)} · {pin.height_mm.toFixed(2)}
            </text>
          </g>
        );
      })}
    </g>
  );
}

/** Where strokes were drawn over the layer heights, and how wide the brush is. */
export function StrokeMarks({
  strokes,
  place,
  y,
}: {
  strokes: HeightStroke[];
  place: Place;
  y: number;
}) {
  return (
    <g aria-hidden pointerEvents="none" data-strokes={strokes.length}>
      {strokes.map((stroke, n) => {
        const x0 = Math.max(place.left, place.at(stroke.from_mm));
        const x1 = Math.min(place.right, place.at(stroke.to_mm));
        if (x1 <= x0) return null;
        const lift = stroke.kind === "even-out" ? 0 : stroke.by < 0 ? 4 : -4;
        const middle = (x0 + x1) / 2;
        return (
          <path
            key={n}
            d={`M${x0} ${y}Q${middle} ${y + lift} ${x1} ${y}`}
            stroke={NORTH}
            strokeWidth="2"
            strokeDasharray={stroke.kind === "even-out" ? "4 3" : undefined}
            fill="none"
          />
        );
      })}
    </g>
  );
}
