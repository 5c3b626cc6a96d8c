import { clsx } from "clsx";
import type { ReactNode } from "react";

import { useRoom } from "../state/room";
import { Attention } from "./Attention";
import type { BodyWay } from "./mesh/MovingBodies";
import { Placing } from "./Placing";
import { SeamAreas } from "./SeamAreas";
import { Supporting } from "./Supporting";
import type { Brushes } from "./useBrushes";
import { TurnTool } from "./turn/TurnTool";
import type { TurnControl } from "./turn/useTurn";
import type { RegionTools } from "./useRegionTools";

/** The words and values beside whatever clicks on the part mark at the moment. */
export function MarkingTool({
  brushes,
  regions,
  turn,
  angle,
  moved,
}: {
  brushes: Brushes;
  regions: RegionTools;
  turn: TurnControl;
  /** Degrees from upright beyond which what leans out is held. */
  angle: number;
  moved: BodyWay | null;
}) {
  const { desk, marks, placed } = useRoom();
  const surface = desk.figures?.surface;
  switch (marks.marking) {
    case "regions":
      return (
        <Placing
          shape={regions.kind}
          upright={regions.upright}
          onShape={regions.setKind}
          corners={regions.corners.length}
          onClose={regions.close}
          onUndo={regions.undoCorner}
        />
      );
    case "supports":
      return <Supporting desk={desk} brush={brushes.support} onBrush={brushes.setSupport} />;
    case "seam":
      return (
        <SeamAreas desk={desk} want={brushes.seamWanted} onWant={brushes.setSeamWanted} />
      );
    case "attention":
      return (
        <Attention
          desk={desk}
          brush={brushes.attention}
          onBrush={brushes.setAttention}
          seen={surface?.seen_mm2 ?? 0}
          hidden={surface?.hidden_mm2 ?? 0}
        />
      );
    case "stand":
      return <Note>Click the face it shall stand on, from below too.</Note>;
    case "bodies":
      return (
        <Note>
          {placed.shape && !placed.shape.bodies.length
            ? "Too many triangles to drag a body; type where it goes, beside its name."
            : "Drag a body along the bed, with Shift up and down; what is marked on it goes " +
              "with it."}
          {moved && (
            <span className="block" data-body-way>
              {moved.name}: {moved.by.map((v) => v.toFixed(1)).join(" · ")} mm
            </span>
          )}
        </Note>
      );
    case "turn":
      return <TurnTool turn={turn} angle={angle} />;
    case null:
      return null;
  }
}

function Note({ children }: { children: ReactNode }) {
  return (
    <p
      role="status"
      className={clsx(
        "absolute top-11 left-3 z-[5] w-72 border border-edge bg-sheet p-2 text-[13px]",
      )}
    >
      {children}
    </p>
  );
}
