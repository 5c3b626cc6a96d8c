import { INK_3 } from "../../tokens";
import { LEFT } from "./layout";
import { LaneEnd, LaneLabel } from "./LaneLabel";
import { SETTING_LANE } from "./settingLanes";
import type { LanesState } from "./useLanes";
import { ValueLane } from "./ValueLane";

/** The lanes of settings that are drawn, as the exact plan has them at every layer. */
export function SettingRows({ lanes }: { lanes: LanesState }) {
  const { values, rows, tops, scale, width } = lanes;
  if (!values) return null;
  return rows.map(({ lane, y }) => (
    <g key={lane.name} data-lane={lane.name}>
      <LaneEnd y={y + SETTING_LANE + 3} width={width} />
      <LaneLabel y={y + 11} name={lane.title} unit={lane.unit} />
      {values[lane.name].length === tops.length ? (
        <ValueLane
          scale={scale}
          values={values[lane.name]}
          colour={lane.colour}
          y={y}
          tall={SETTING_LANE}
          format={(v) => v.toFixed(lane.digits)}
          floating={lane.floating}
        />
      ) : (
        <text x={LEFT + 6} y={y + 16} fontSize="12" fill={INK_3}>
          drawn with the exact plan
        </text>
      )}
    </g>
  ));
}
