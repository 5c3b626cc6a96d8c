import { type RegionShape, SHAPES } from "../panels/places/places";

const SAYS: Record<RegionShape, string> = {
  under:
    "Click on a face: the region lies under it, down to the bed until you give it a depth.",
  over: "Click on a face: the region lies over it.",
  near: "Click on a face: the region is all within a distance of it.",
  outline: "Click the corners one after the other; they lie at the height of the first.",
  box:
    "Click on the part: the box begins around that point. " +
    "Drag its middle, Shift for up and down.",
  cylinder:
    "Click on the part: the cylinder begins around that point. " +
    "Drag its middle, Shift for up and down.",
  ball:
    "Click on the part: the ball begins around that point. " +
    "Drag its middle, Shift for up and down.",
  body: "Its settings are found with the bodies, under Mesh.",
};
/** A body is picked where bodies are listed. */
const PLACED = (Object.keys(SHAPES) as RegionShape[]).filter((name) => name !== "body");

/** Placing a region: which kind, and what the next click does. */
export function Placing({
  shape,
  upright,
  onShape,
  corners,
  onClose,
  onUndo,
}: {
  shape: RegionShape;
  upright: boolean;
  onShape: (shape: RegionShape) => void;
  corners: number;
  onClose: () => void;
  onUndo: () => void;
}) {
  return (
    <div
      role="group"
      aria-label="Place a region"
      className="absolute top-11 left-3 z-[5] w-72 border border-edge bg-sheet p-2 text-[13px]"
    >
      <div className="flex flex-wrap">
        {PLACED.map((name) => (
          <button
            key={name}
            className="quiet"
            aria-pressed={shape === name}
            onClick={() => onShape(name)}
          >
            {SHAPES[name]}
          </button>
        ))}
      </div>
      <p className="mt-1">{SAYS[shape]}</p>
      <p className="mt-1 text-ink-2">
        The part is cut at the cursor; move it to reach inside or to the top.
      </p>
      {upright && (
        <p role="alert" className="mt-1 text-stop">
          That face is upright: nothing lies {shape} it. Click one that lies level or leans.
        </p>
      )}
      {shape === "outline" && corners > 0 && (
        <p className="mt-1 flex items-center gap-2">
          {corners} {corners === 1 ? "corner" : "corners"}{" "}
          <button className="quiet" disabled={corners < 3} onClick={onClose}>
            Close the outline
          </button>
          <button className="quiet" onClick={onUndo}>
            one back
          </button>
        </p>
      )}
    </div>
  );
}
