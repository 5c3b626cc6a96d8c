import { useRoom } from "../state/room";
import { bandWords } from "../panels/places/places";
import { BandEditor, PinEditor } from "./Editors";
import { LaneEditor } from "./LaneEditor";
import { LayerSentence } from "./LaneHeader";
import { Relax } from "./Relax";
import { SETTING_LANES } from "./settingLanes";
import { ToStroke } from "./ToStroke";
import type { LanesState } from "./useLanes";

/** The line above the lanes: what is edited or about to be drawn, else the layer in words. */
export function EditedHere({ lanes }: { lanes: LanesState }) {
  const { plan, desk, machine } = useRoom();
  const { hands, bands, edited, bounds } = lanes;
  const lane = SETTING_LANES.find((entry) => entry.name === edited);
  if (lane) return <EditedLane lanes={lanes} lane={lane} />;
  const { chosen } = hands;
  const band = chosen?.kind === "band" ? bands[chosen.n] : undefined;
  if (band && chosen) return <EditedBand key={chosen.n} lanes={lanes} n={chosen.n} />;
  const pin = chosen?.kind === "pin" ? hands.pins[chosen.n] : undefined;
  if (pin && chosen)
    return (
      <PinEditor
        pin={pin}
        bounds={bounds}
        onPin={(next) => hands.changePin(chosen.n, next)}
        onRemove={() => hands.removePin(chosen.n)}
        onDone={() => hands.choose(null)}
      />
    );
  if (hands.armed === "stroke") return <ToStroke lanes={lanes} />;
  if (hands.armed) return <ToDraw lanes={lanes} what={hands.armed} />;
  if (lanes.span)
    return (
      <Relax
        plan={plan.id}
        desk={desk}
        figures={lanes.figures}
        span={lanes.span}
        measure={desk.wanted.measure}
        machine={machine}
        onDone={() => lanes.setSpan(null)}
      />
    );
  return <LayerSentence figures={lanes.figures} layer={lanes.shown} />;
}

function EditedLane({
  lanes,
  lane,
}: {
  lanes: LanesState;
  lane: (typeof SETTING_LANES)[number];
}) {
  const { desk, settings } = useRoom();
  const { hands, tops, heights, layer, bounds } = lanes;
  const top = tops[layer] ?? 0;
  return (
    <LaneEditor
      key={lane.name}
      lane={lane}
      desk={desk}
      settings={settings}
      bands={lanes.bands}
      z={top - (heights[layer] ?? 0) / 2}
      inherited={lanes.facts.open[lane.name] ?? null}
      shown={lanes.drawn(lane.name)}
      onShown={() => lanes.onDrawn(lane.name)}
      onBand={hands.changeBand}
      onAdd={(changes) => hands.addBand(...around(top, bounds.top), changes)}
      onDone={() => lanes.setEdited(null)}
    />
  );
}

function EditedBand({ lanes, n }: { lanes: LanesState; n: number }) {
  const { settings, marks } = useRoom();
  const { hands, bands, bounds } = lanes;
  const band = bands[n];
  if (!band) return null;
  return (
    <BandEditor
      band={band}
      words={bandWords(band, settings)}
      onSettings={() => marks.pick({ kind: "band", n }, true)}
      bounds={bounds}
      snapped={hands.snapped}
      onBand={(next) => hands.changeBand(n, next)}
      onRemove={() => hands.removeBand(n)}
      onDone={() => hands.choose(null)}
    />
  );
}

/** How a band or pin is drawn, and the way of typing it instead. */
function ToDraw({ lanes, what }: { lanes: LanesState; what: "band" | "pin" }) {
  const { hands, tops, heights, layer, bounds, facts } = lanes;
  const top = tops[layer] ?? 0;
  const tall = heights[layer];
  if (what === "band")
    return (
      <p className="text-[13px]">
        Drag across the lanes from one edge to the other, or{" "}
        <button className="quiet" onClick={() => hands.addBand(...around(top, bounds.top))}>
          take 4 mm around the cursor and type
        </button>{" "}
        {hands.snapped}
      </p>
    );
  return (
    <p className="text-[13px]">
      Click into the layer height lane, or{" "}
      <button
        className="quiet"
        onClick={() => hands.addPin(top - (tall ?? 0) / 2, tall ?? facts.least)}
      >
        pin the layer at the cursor
      </button>
    </p>
  );
}

/** Four millimetres around a height, inside the part. */
const around = (z: number, top: number): [number, number] => [
  Number(Math.max(0, z - 2).toFixed(2)),
  Number(Math.min(top, z + 2).toFixed(2)),
];
