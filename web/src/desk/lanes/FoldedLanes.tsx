import { clsx } from "clsx";

import type { LanesState } from "./useLanes";

/** What holds at every height and is not drawn, in words that open its editor. */
export function FoldedLanes({ lanes, y }: { lanes: LanesState; y: number }) {
  const { facts, drawn, edited, setEdited } = lanes;
  return (
    <div
      className={clsx(
        "narrow absolute right-2 left-1 flex h-[24px] gap-x-2 overflow-hidden",
        "text-[12px] whitespace-nowrap text-ink-2",
      )}
      style={{ top: y }}
      role="group"
      aria-label="What holds at every height"
    >
      {facts.folded
        .filter((entry) => !drawn(entry.lane))
        .map((entry) => (
          <button
            key={entry.lane}
            className={clsx(
              "cursor-pointer border-0 bg-transparent px-1 hover:text-ink",
              "hover:underline aria-pressed:font-semibold aria-pressed:text-ink",
            )}
            aria-pressed={edited === entry.lane}
            onClick={() => setEdited(edited === entry.lane ? null : entry.lane)}
          >
            {entry.words}
          </button>
        ))}
    </div>
  );
}
