import { clsx } from "clsx";
import { FEATURES, LAID, type Feature } from "../../../tokens";
import type { Toolpath } from "../../state/toolpath";
import { Legend } from "../Legend";
import { type Answer, type Question, QUESTIONS } from "./questions";

/** What the beads are asked, below how much of the part, and what goes along with them. */
export function AskBar({
  question,
  onQuestion,
  below,
  onBelow,
  travel,
  onTravel,
  seams,
  onSeams,
}: {
  question: Question;
  onQuestion: (question: Question) => void;
  below: boolean;
  onBelow: (on: boolean) => void;
  travel: boolean;
  onTravel: (on: boolean) => void;
  seams: boolean;
  onSeams: (on: boolean) => void;
}) {
  return (
    <div
      className={clsx(
        "flex flex-wrap items-center gap-x-3 gap-y-1",
        "bg-paper/85 text-[13px]",
      )}
    >
      <select
        className="field min-h-7"
        aria-label="Ask the beads"
        value={question}
        onChange={(event) => onQuestion(event.target.value as Question)}
      >
        {(Object.keys(QUESTIONS) as Question[]).map((key) => (
          <option key={key} value={key}>
            {QUESTIONS[key]}
          </option>
        ))}
      </select>
      {(
        [
          ["layers below", below, onBelow],
          ["travel", travel, onTravel],
          ["seams", seams, onSeams],
        ] as const
      ).map(([name, on, set]) => (
        <label key={name} className="flex min-h-[24px] items-center gap-1">
          <input
            type="checkbox"
            className="h-4 w-4 accent-ink"
            checked={on}
            onChange={(event) => set(event.target.checked)}
          />
          {name}
        </label>
      ))}
    </div>
  );
}

/** The scale or the kinds that the colours mean, and the features that are shown. */
export function BeadLegend({
  path,
  answer,
  hidden,
  onHidden,
}: {
  path: Toolpath;
  answer: Answer;
  hidden: ReadonlySet<Feature>;
  onHidden: (hidden: ReadonlySet<Feature>) => void;
}) {
  const plain = answer.kinds !== null && answer.kinds.length === 0;
  const toggle = (name: Feature) => {
    const next = new Set(hidden);
    if (!next.delete(name)) next.add(name);
    onHidden(next);
  };
  return (
    <div
      className={clsx(
        "pointer-events-none absolute bottom-2 left-3 flex items-end gap-3",
        "[&>*]:pointer-events-auto",
      )}
    >
      {answer.kinds === null && (
        <Legend
          placed={false}
          title={answer.title}
          unit={answer.unit}
          from={answer.range[0]}
          to={answer.range[1]}
          colours={answer.colours}
          format={answer.format}
        />
      )}
      {answer.kinds !== null && answer.kinds.length > 0 && (
        <ul className="narrow bg-paper/85 text-[12px]" aria-label={answer.title}>
          <li>{answer.title}</li>
          {answer.kinds.map((name, k) => (
            <li key={name} className="flex items-center gap-1.5">
              <span
                aria-hidden
                className="inline-block w-5 border-t-[3px]"
                style={{ borderColor: answer.colours[k] }}
              />
              {name}
            </li>
          ))}
        </ul>
      )}
      <fieldset
        className={clsx(
          "narrow gap-x-2 bg-paper/85 text-[12px] [@media(max-height:760px)]:grid",
          "[@media(max-height:760px)]:grid-cols-2",
          // beside the settings the stage is narrow: along its foot, not over the part
          "@max-[440px]:flex @max-[440px]:flex-wrap",
        )}
      >
        <legend className="sr-only">Features shown on the stage</legend>
        {LAID.filter((name) => path.present.has(name)).map((name) => (
          <label key={name} className="flex min-h-[24px] items-center gap-1.5">
            <input
              type="checkbox"
              checked={!hidden.has(name)}
              onChange={() => toggle(name)}
              className="h-4 w-4 accent-ink"
            />
            {plain && (
              <span
                aria-hidden
                className="inline-block w-5 border-t-[3px]"
                style={{ borderColor: FEATURES[name].colour }}
              />
            )}
            {FEATURES[name].label}
          </label>
        ))}
      </fieldset>
    </div>
  );
}
