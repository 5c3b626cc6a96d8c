import { HAIRLINE, INK, INK_3 } from "../../tokens";

/** The name of a lane with its unit. */
export function LaneLabel({ y, name, unit }: { y: number; name: string; unit?: string }) {
  return (
    <>
      <text x={8} y={y} fontSize="13" fontWeight="600" fill={INK}>
        {name}
      </text>
      {unit && (
        <text x={8} y={y + 14} fontSize="12" fill={INK_3}>
          {unit}
        </text>
      )}
    </>
  );
}

/** The line under a lane. */
export const LaneEnd = ({ y, width }: { y: number; width: number }) => (
  <line x1={8} x2={width - 8} y1={y} y2={y} stroke={HAIRLINE} />
);
