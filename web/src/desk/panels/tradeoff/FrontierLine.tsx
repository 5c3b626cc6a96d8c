import { FJORD, SHEET } from "../../../tokens";
import { PAD } from "./spots";

/**
 * The frontier as far as it is solved: a line where it is, else the points alone and the hull
 * between them.
 */
export function FrontierLine({
  whole,
  points,
  line,
  lowest,
}: {
  whole: boolean;
  points: [number, number][];
  line: string;
  /** Where its name may stand at the lowest, above the ticks. */
  lowest: number;
}) {
  // at its slow end, below which nothing lies
  const at = points.at(-1);
  return (
    <g data-curve={whole ? "frontier" : "hull"}>
      <path
        d={line}
        fill="none"
        stroke={FJORD}
        strokeWidth={whole ? 2 : 1}
        strokeDasharray={whole ? undefined : "2 4"}
      />
      {!whole &&
        points.map(([px, py]) => (
          <circle key={`${px} ${py}`} cx={px} cy={py} r="3" fill={FJORD} />
        ))}
      {at && (
        <text
          x={Math.max(at[0], PAD.left + 72)}
          y={Math.min(at[1] + 18, lowest)}
          fontSize="12"
          fill={FJORD}
          textAnchor="end"
          stroke={SHEET}
          strokeWidth="3"
          paintOrder="stroke"
        >
          {whole ? "frontier" : "solved so far"}
        </text>
      )}
    </g>
  );
}
