import {
  type Band,
  bandsOf,
  mergedBands,
  placedBands,
  withBands,
} from "../panels/places/places";
import { useRoom } from "../state/room";
import type { Above } from "./ErrorLane";
import { ROWS } from "./layout";
import type { LanesState } from "./useLanes";

/**
 * What a percentile or a mean lets go above its target, at its place with its share of the surface;
 * pressed, it is held under the target there and nowhere else.
 */
export function AboveMarks({ lanes }: { lanes: LanesState }) {
  const { desk } = useRoom();
  const { kind, ask, targetUm: target } = desk.wanted;
  if (kind === "even" || ask === "cap") return null;
  const { at, left, right } = lanes.place;
  const hold = async ({ from_mm, to_mm }: Above) => {
    const held: Band = {
      name: "held",
      from_mm,
      to_mm,
      worst_um: Math.max(1, Math.round(target)),
    };
    const bands = bandsOf(desk.choice);
    const clear = placedBands(bands, desk).every(
      (band) => band.to_mm <= from_mm || band.from_mm >= to_mm,
    );
    const all = [...bands, held];
    desk.change(withBands(desk.choice, clear ? all : await mergedBands(all)));
  };
  return lanes.figures.surface.above.map((stretch) => {
    const [x0, x1] = [at(stretch.from_mm), at(stretch.to_mm)];
    if (x1 <= left || x0 >= right) return null;
    const middle = (Math.max(left, x0) + Math.min(right, x1)) / 2;
    const share = (100 * stretch.share).toFixed(stretch.share < 0.01 ? 2 : 1);
    return (
      <button
        key={stretch.from_mm}
        data-above={stretch.from_mm}
        className="slim narrow absolute -translate-x-1/2 text-look"
        style={{ left: Math.min(middle, right - 26), top: ROWS.error[0] + 7 }}
        title={
          `${share} % of the surface is above the target of ${Math.round(target)} µm from ` +
          `${stretch.from_mm.toFixed(2)} to ${stretch.to_mm.toFixed(2)} mm, up to ` +
          `${Math.round(stretch.max_um)} µm. Press to hold it under the target there only.`
        }
        onClick={() => {
          void hold(stretch);
        }}
      >
        ▲ {share} %
      </button>
    );
  });
}
