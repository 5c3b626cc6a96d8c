import { FJORD, INK_3 } from "../../tokens";
import { useRoom } from "../state/room";
import { baselineName } from "../state/useGhost";
import { DecidesLane, RulePatterns } from "./DecidesLane";
import { DifferenceLane } from "./DifferenceLane";
import { ErrorLane } from "./ErrorLane";
import { FindingLane } from "./FindingLane";
import { ghostLine, HeightLane } from "./HeightLane";
import { LEFT, ROWS, TOP } from "./layout";
import { LaneEnd, LaneLabel } from "./LaneLabel";
import { BandMarks, PinMarks, RegionSpans, StrokeMarks } from "./Marks";
import { SettingRows } from "./SettingRows";
import { Side } from "./Side";
import { Strip } from "./Strip";
import type { LanesState } from "./useLanes";
import { ValueLane } from "./ValueLane";

/** The lanes from top to bottom: the part on its side, what decides, what it costs, settings. */
export function DrawnLanes({ lanes }: { lanes: LanesState }) {
  const { plan, desk } = useRoom();
  const { facts, figures, tops, heights, scale, width, compared, up } = lanes;
  const { seconds, error_um: largest, mean_error_um: mean } = figures.layers;
  const { kind, ask, targetUm } = desk.wanted;
  const limits = { least: facts.least, greatest: facts.greatest };
  const row = (name: keyof typeof ROWS) => ({ y: ROWS[name][0], tall: ROWS[name][1] });
  return (
    <>
      <RulePatterns />
      {Object.entries(ROWS).map(([name, [y, tall]]) => (
        <LaneEnd key={name} y={y + tall + 3} width={width} />
      ))}
      <LaneLabel y={ROWS.part[0] + 13} name="Part" unit="bed left, top right" />
      <LaneLabel y={ROWS.height[0] + 20} name="Layer height" unit="mm" />
      <LaneLabel y={ROWS.decides[0] + 13} name="What decides" />
      <LaneLabel y={ROWS.error[0] + 14} name="Step error" unit="µm" />
      <LaneLabel
        y={ROWS.time[0] + 11}
        name={compared ? "Difference" : "Time a layer"}
        unit={compared ? `min/mm to ${baselineName(plan)}` : "s"}
      />
      <Strip
        left={LEFT}
        right={lanes.right}
        tops={tops}
        heights={heights}
        {...limits}
        view={lanes.view}
        onView={lanes.setView}
      />
      {lanes.outline ? (
        <Side scale={scale} outline={lanes.outline} {...row("part")} />
      ) : (
        <text x={LEFT + 6} y={ROWS.part[0] + 20} fontSize="12" fill={INK_3}>
          drawn when the part’s shape is here
        </text>
      )}
      <HeightLane
        scale={scale}
        heights={heights}
        {...limits}
        {...row("height")}
        ghost={
          compared
            ? ghostLine(scale, compared.layers.tops_mm, compared.layers.heights_mm, up)
            : null
        }
      />
      <DecidesLane
        scale={scale}
        spans={lanes.spans}
        chosen={lanes.span ?? null}
        {...row("decides")}
        onChoose={(entry) => {
          lanes.hands.choose(null);
          lanes.setSpan(entry === lanes.span ? null : entry);
        }}
      />
      <ErrorLane
        scale={scale}
        largest={largest}
        mean={mean}
        target={kind === "even" || ask === "cap" ? null : targetUm}
        above={figures.surface.above}
        place={lanes.place.at}
        {...row("error")}
      />
      {compared ? (
        <DifferenceLane
          scale={scale}
          layers={figures.layers}
          compared={compared.layers}
          {...row("time")}
        />
      ) : (
        <ValueLane
          scale={scale}
          values={seconds}
          colour={FJORD}
          {...row("time")}
          format={(v) => v.toFixed(0)}
          guide={{ value: facts.leastTime, label: `least ${facts.leastTime} s` }}
        />
      )}
      <SettingRows lanes={lanes} />
      <HeldMarks lanes={lanes} />
    </>
  );
}

/** Bands, pins, regions and findings over the lanes. */
function HeldMarks({ lanes }: { lanes: LanesState }) {
  const { settings, marks, findings, sight } = useRoom();
  const { hands, bands, place, bottom } = lanes;
  const { chosen, drawn } = hands;
  const still = hands.armed ? "none" : undefined;
  return (
    <>
      <g pointerEvents={still}>
        <BandMarks
          bands={bands}
          settings={settings}
          chosen={chosen?.kind === "band" ? chosen.n : null}
          place={place}
          top={TOP}
          bottom={bottom}
          onChoose={(n) => hands.choose({ kind: "band", n })}
          onEdge={hands.holdEdge}
        />
      </g>
      {drawn && (
        <rect
          x={Math.min(...drawn.map(place.at))}
          width={Math.abs(place.at(drawn[1]) - place.at(drawn[0]))}
          y={TOP}
          height={bottom - TOP}
          fill={FJORD}
          fillOpacity="0.2"
          stroke={FJORD}
        />
      )}
      <g pointerEvents={still}>
        <PinMarks
          pins={hands.pins}
          chosen={chosen?.kind === "pin" ? chosen.n : null}
          place={place}
          up={lanes.up}
          top={ROWS.height[0]}
          onChoose={(n) => hands.choose({ kind: "pin", n })}
          onDrag={hands.holdPin}
        />
      </g>
      <StrokeMarks strokes={hands.strokes} place={place} y={ROWS.height[0] + 6} />
      <RegionSpans lines={marks.lines} place={place} y={ROWS.part[0] + 2} />
      <FindingLane
        findings={findings}
        place={place}
        y={ROWS.part[0] + ROWS.part[1] - 5}
        onGo={sight.toFinding}
      />
    </>
  );
}
