import { type PointerEvent, useRef } from "react";

import { heightColour, INK, INK_3 } from "../../tokens";
import type { View } from "./scale";

/**
 * The whole part in one line, with the window that the lanes show; the window is moved and
 * stretched here.
 */
export function Strip({
  left,
  right,
  tops,
  heights,
  least,
  greatest,
  view,
  onView,
}: {
  left: number;
  right: number;
  tops: number[];
  heights: number[];
  least: number;
  greatest: number;
  view: View;
  onView: (view: View) => void;
}) {
  const grip = useRef<{ mode: "move" | "from" | "to"; at: number; view: View } | null>(null);
  const end = tops.at(-1) || 1;
  const px = (share: number) => left + share * (right - left);
  const colour = heightColour(least, greatest);
  const columns = 120;
  const down = (mode: "move" | "from" | "to") => (event: PointerEvent<SVGElement>) => {
    event.stopPropagation();
    event.currentTarget.setPointerCapture(event.pointerId);
    grip.current = { mode, at: event.clientX, view };
  };
  const move = (event: PointerEvent<SVGElement>) => {
    const held = grip.current;
    if (!held) return;
    const by = (event.clientX - held.at) / (right - left);
    const [from, to] = held.view;
    if (held.mode === "from") onView([Math.max(0, Math.min(from + by, to - 0.005)), to]);
    else if (held.mode === "to") onView([from, Math.min(1, Math.max(to + by, from + 0.005))]);
    else {
      const shift = Math.max(-from, Math.min(by, 1 - to));
      onView([from + shift, to + shift]);
    }
  };
  const up = () => {
    grip.current = null;
  };
  let k = 0;
  return (
    <g aria-hidden onPointerMove={move} onPointerUp={up}>
      {Array.from({ length: columns }, (_, n) => {
        while (k < tops.length - 1 && (tops[k] ?? 0) < ((n + 0.5) / columns) * end) k++;
        return (
          <rect
            key={n}
            x={px(n / columns)}
            y={2}
            width={(right - left) / columns + 0.5}
            height={7}
            fill={colour(heights[k] ?? 0)}
          />
        );
      })}
      <rect
        x={left}
        y={2}
        width={right - left}
        height={7}
        fill="none"
        stroke={INK_3}
        strokeWidth="0.6"
      />
      <rect
        x={px(view[0])}
        y={0}
        width={px(view[1]) - px(view[0])}
        height={11}
        fill="transparent"
        stroke={INK}
        strokeWidth="1.4"
        className="cursor-grab"
        onPointerDown={down("move")}
      />
      {(
        [
          ["from", view[0]],
          ["to", view[1]],
        ] as const
      ).map(([edge, share]) => (
        <rect
          key={edge}
          x={px(share) - 4}
          y={-2}
          width={8}
          height={15}
          fill="transparent"
          className="cursor-ew-resize"
          onPointerDown={down(edge)}
        />
      ))}
    </g>
  );
}
