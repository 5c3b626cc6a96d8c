import { clsx } from "clsx";

import type { Marking } from "../state/useMarking";
import { type View, VIEWS } from "../state/useSight";

const MARKINGS = ["attention", "supports", "seam", "regions"] as const;

/** What the stage shows, what clicks on it mark, and a way back to the whole part. */
export function StageBar({
  view,
  onView,
  marking,
  onMarking,
  onWhole,
}: {
  view: View;
  onView: (view: View) => void;
  marking: Marking;
  onMarking: (marking: Marking) => void;
  onWhole: () => void;
}) {
  return (
    <div
      className={clsx(
        "flex flex-wrap gap-1 whitespace-nowrap xl:gap-2",
        "max-xl:[&_.quiet]:px-1.5 max-lg:[&_.quiet]:px-1 max-lg:[&_.quiet]:text-[12px]",
      )}
      role="group"
      aria-label="What the stage shows"
    >
      <span className="flex">
        {VIEWS.map((name) => (
          <button
            key={name}
            className="quiet"
            aria-pressed={view === name && !(name === "beads" && marking !== null)}
            onClick={() => onView(name)}
          >
            {name}
          </button>
        ))}
      </span>
      {/* where the stage is narrow, beside the settings, only what is being marked stays */}
      <span className={clsx("flex", marking === null && "@max-[440px]:hidden")}>
        {MARKINGS.map((name) => (
          <button
            key={name}
            className="quiet"
            aria-pressed={marking === name}
            onClick={() => onMarking(marking === name ? null : name)}
          >
            {name}
          </button>
        ))}
      </span>
      <button
        className="quiet"
        aria-label="whole part"
        title="Look at the whole part"
        onClick={onWhole}
      >
        whole<span className="max-xl:hidden"> part</span>
      </button>
    </div>
  );
}
