import type { Room } from "../state/room";
import { Beads } from "./beads/Beads";
import { TravelMarks } from "./beads/TravelMarks";
import type { BeadView } from "./useBeadView";

/** Clicks that travelled less than this many pixels were no drag. */
const STILL = 4;

/** The beads up to the cursor, and the plane of its layer on which they are pointed at. */
export function BeadLayers({ room, view }: { room: Room; view: BeadView }) {
  const { plan, path, cursor, placed } = room;
  const { bed } = placed;
  if (!path || !view.answer) return null;
  // the shape stays where its heights are counted from: a raft's beads begin below it
  const lift = plan.exact?.report?.footing.lift_mm ?? 0;
  const at = { path, layer: cursor.beadLayer, move: cursor.move, origin: bed.origin };
  return (
    <group position={[0, 0, -lift]}>
      <Beads {...at} answer={view.answer} hidden={view.hidden} below={view.below} />
      <TravelMarks {...at} travel={view.travel} seams={view.seams} />
      <mesh
        position={[0, 0, path.tops[cursor.beadLayer] ?? 0]}
        onPointerMove={(event) => {
          if (!event.buttons) view.point(event.point.x, event.point.y, false);
        }}
        onPointerOut={view.leave}
        onClick={(event) => {
          if (event.delta < STILL) view.point(event.point.x, event.point.y, true);
        }}
      >
        <planeGeometry args={[4 * bed.x, 4 * bed.y]} />
        <meshBasicMaterial visible={false} />
      </mesh>
    </group>
  );
}
