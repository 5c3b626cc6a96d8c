import { INK_3, NORTH, SHEET } from "../../tokens";
import { LEFT, TOP } from "./layout";

/** Pixels that a letter of the flag is wide, and the margin around them. */
const LETTER = 6.2;
const AROUND = 12;

/** The cursor: a line through the lanes with its flag, and a dashed one where the pointer is. */
export function LaneCursor({
  x,
  hover,
  words,
  width,
  bottom,
}: {
  x: number;
  hover: number | null;
  words: string;
  width: number;
  bottom: number;
}) {
  const wide = words.length * LETTER + AROUND;
  const flag = Math.min(Math.max(x - wide / 2, LEFT), width - wide - 4);
  const line = { x1: x, x2: x, y1: TOP, y2: bottom + 28 };
  return (
    <g pointerEvents="none">
      {hover !== null && (
        <line
          x1={hover}
          x2={hover}
          y1={TOP}
          y2={bottom}
          stroke={INK_3}
          strokeDasharray="2 2"
        />
      )}
      <line {...line} stroke={SHEET} strokeWidth="4" />
      <line {...line} stroke={NORTH} strokeWidth="2" />
      <rect x={flag} y={bottom + 28} width={wide} height={18} fill={NORTH} />
      <text x={flag + wide / 2} y={bottom + 41} fontSize="12" fill={SHEET} textAnchor="middle">
        {words}
      </text>
    </g>
  );
}
