import type { Machine } from "../../api/client";
import { signedSpan, signedUm } from "../../format";
import type { Desk, Figures } from "../state/useDesk";
import { useQuick } from "../state/useQuick";
import { MEASURES, type Measure } from "../panels/tradeoff/frontier";
import { relaxations, RULES, type Span } from "./rules";

/**
 * What relaxing the rule of a stretch would bring, each with its price and one press to take it.
 */
export function Relax({
  plan,
  desk,
  figures,
  span,
  measure,
  machine,
  onDone,
}: {
  plan: number;
  desk: Desk;
  figures: Figures;
  span: Span;
  measure: Measure;
  machine: Machine | undefined;
  onDone: () => void;
}) {
  const tops = figures.layers.tops_mm;
  const low = span.from ? (tops[span.from - 1] ?? 0) : 0;
  const high = tops[span.to - 1] ?? 0;
  const offers = relaxations(span.rule, desk.choice, desk.wanted, [low, high], machine);
  const key = MEASURES[measure].key;
  const { before, answers } = useQuick(
    plan,
    desk.choice,
    offers.map((offer) => offer.choice),
  );
  return (
    <div
      role="group"
      aria-label="What relaxing would bring"
      className="flex flex-wrap items-center gap-x-3 gap-y-1 text-[13px]"
    >
      <span>
        <b>{RULES[span.rule].word}</b> decides from {low.toFixed(2)} to {high.toFixed(2)} mm.
      </span>
      {offers.length === 0 && (
        <span className="text-ink-2">
          Nothing to relax here:{" "}
          {span.rule === "first-layer"
            ? "the first layer's height is set apart, under Surface."
            : "this is how the part ends."}
        </span>
      )}
      {offers.map((offer, n) => {
        const answer = answers[n];
        return (
          <button
            key={offer.label}
            className="quiet"
            disabled={!answer?.data || !before}
            onClick={() => {
              desk.change(offer.choice);
              onDone();
            }}
          >
            {offer.label}:{" "}
            {answer?.data && before ? (
              <b>
                ≈ {signedSpan(answer.data.time_s.total - before.time_s.total)},{" "}
                {signedUm(answer.data.surface[key] - before.surface[key])}
              </b>
            ) : answer?.error ? (
              <span className="text-stop">not possible</span>
            ) : (
              "…"
            )}
          </button>
        );
      })}
      <button className="quiet" aria-label="Close what relaxing would bring" onClick={onDone}>
        ×
      </button>
    </div>
  );
}
