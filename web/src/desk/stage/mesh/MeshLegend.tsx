import type { MeshFigures } from "../../panels/mesh/useMesh";
import { STATE_COLOURS } from "./MeshSurface";
import type { When } from "./useMeshChanges";

const WORDS: Record<When, string> = { before: "as it came", after: "as it is taken" };
const bars = (colour: string, turn: number) =>
  `repeating-linear-gradient(${turn}deg, ${colour} 0 4px, ${STATE_COLOURS[0]} 4px 6px)`;
const dots = `radial-gradient(${STATE_COLOURS[0]} 30%, ${STATE_COLOURS[3]} 34%) 0 0 / 6px 6px`;

/** Which of both surfaces is shown, and what its colours and patterns mean. */
export function MeshLegend({
  figures,
  when,
  onWhen,
}: {
  figures: MeshFigures | undefined;
  when: When;
  onWhen: (when: When) => void;
}) {
  const rows =
    when === "after"
      ? [
          ["added", bars(STATE_COLOURS[1], -45), figures?.added_mm2],
          ["turned", dots, figures?.turned_mm2],
        ]
      : [
          ["dropped", bars(STATE_COLOURS[2], 45), figures?.dropped_mm2],
          ["turned", dots, figures?.turned_mm2],
        ];
  return (
    <figure
      className="narrow absolute bottom-8 left-3 m-0 bg-paper/90 p-1 text-[12px]"
      aria-label="The mesh before and after mending"
    >
      <span className="mb-1 flex" role="group" aria-label="When">
        {(["before", "after"] as const).map((one) => (
          <button
            key={one}
            className="quiet"
            aria-pressed={when === one}
            onClick={() => onWhen(one)}
          >
            {WORDS[one]}
          </button>
        ))}
      </span>
      {rows.map(([word, background, area]) => (
        <span key={String(word)} className="flex items-center gap-1">
          <span
            aria-hidden
            className="inline-block h-3 w-4 border border-hairline"
            style={{ background: String(background) }}
          />
          {word} {area === undefined ? "" : `${Number(area).toFixed(0)} mm²`}
        </span>
      ))}
    </figure>
  );
}
