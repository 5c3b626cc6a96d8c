import type { ReactNode } from "react";

import { signedSpan, signedUm } from "../../format";
import { keysFor } from "../../frame/shortcuts";
import { NumberField } from "../panels/NumberField";
import type { Figures } from "../state/useDesk";
import { RULES, runAround } from "./rules";
import type { Armed } from "./useHands";

export const KINDS = [
  ["even", "even"],
  ["adaptive", "adaptive"],
  ["best-fit", "best fit"],
] as const;

/**
 * The lanes' own line: how heights are chosen, what can be added by hand, and what the cursor
 * stands on.
 */
export function LaneHeader({
  kind,
  armed,
  ghost,
  onKind,
  onArm,
  onGhost,
  onSlice,
  onTable,
  canGhost,
  stepLimit,
  onStepLimit,
  calm,
  calmWords,
  onCalm,
  children,
}: {
  kind: string;
  armed: Armed;
  ghost: boolean;
  canGhost: boolean;
  onKind: (kind: string) => void;
  onArm: (what: Armed) => void;
  onGhost: (on: boolean) => void;
  onSlice: () => void;
  onTable: () => void;
  stepLimit: number;
  onStepLimit: (ratio: number) => void;
  calm: number;
  /** What calm is given, in words. */
  calmWords: string;
  onCalm: (share: number) => void;
  children: ReactNode;
}) {
  return (
    <div className="flex flex-wrap items-center gap-x-3 gap-y-1 px-3 pt-1.5">
      <h2 className="font-semibold">Height lanes</h2>
      <span className="flex" role="group" aria-label="How heights are chosen">
        {KINDS.map(([name, word]) => (
          <button
            key={name}
            className="quiet"
            aria-pressed={kind === name}
            onClick={() => onKind(name)}
          >
            {word}
          </button>
        ))}
      </span>
      <span
        className="inline-flex items-center gap-1 text-[13px] text-ink-2"
        title="Largest ratio from a layer to the next"
      >
        step limit
        <NumberField
          label="Step limit"
          unit="×"
          value={stepLimit}
          min={1}
          max={3}
          step={0.05}
          width="w-11"
          onValue={(v) => v && onStepLimit(v)}
        />
      </span>
      {kind !== "even" && (
        <span
          className="inline-flex items-center gap-1 text-[13px] text-ink-2"
          title={`Heights change as seldom as they can for at most so much more time. ${calmWords}`}
        >
          calm
          <NumberField
            label="Calm"
            unit="%"
            value={calm}
            min={0}
            max={20}
            step={0.5}
            width="w-11"
            onValue={(v) => v !== null && onCalm(v)}
          />
        </span>
      )}
      <span className="flex gap-1">
        <button
          className="quiet"
          aria-pressed={armed === "stroke"}
          onClick={() => onArm(armed === "stroke" ? null : "stroke")}
          title="Brush over the lanes: finer, taller, or evened out"
        >
          stroke
        </button>
        <button
          className="quiet"
          aria-pressed={armed === "band"}
          onClick={() => onArm(armed === "band" ? null : "band")}
          title="Drag across the lanes, or type the edges"
        >
          + band
        </button>
        <button
          className="quiet"
          aria-pressed={armed === "pin"}
          onClick={() => onArm(armed === "pin" ? null : "pin")}
          title="Click into the height lane, or type"
        >
          + pin
        </button>
      </span>
      {children}
      <span className="ml-auto flex gap-1">
        <button
          className="quiet"
          aria-pressed={ghost}
          disabled={!canGhost}
          onClick={() => onGhost(!ghost)}
          title={`Show the baseline through lanes and stage; hold ${keysFor("ghost")} for a look`}
        >
          ghost
        </button>
        <button className="quiet" onClick={onSlice}>
          Test slice …
        </button>
        <button className="quiet" onClick={onTable}>
          Table …
        </button>
      </span>
    </div>
  );
}

/**
 * What the layer under the cursor is, which rule made it so, and what one z step would bring over
 * its stretch.
 */
export function LayerSentence({ figures, layer }: { figures: Figures; layer: number }) {
  const { layers } = figures;
  const rule = layers.rule[layer];
  if (!rule) return null;
  const [from, to] = runAround(layers, layer);
  const sum = (values: number[]) => values.slice(from, to).reduce((a, b) => a + b, 0);
  const coarser = layers.coarser_um[layer] ?? 0;
  const finer = layers.finer_um[layer] ?? 0;
  const [quicker, slower] = [sum(layers.coarser_s), sum(layers.finer_s)];
  return (
    <p className="text-[13px] text-ink-2" data-sentence>
      layer {layer + 1}:{" "}
      <b className="text-ink">{(layers.heights_mm[layer] ?? 0).toFixed(2)} mm</b>, step{" "}
      {Math.round(layers.error_um[layer] ?? 0)} µm;{" "}
      <b className="text-ink">{RULES[rule].word}</b> decides
      {quicker !== 0 &&
        ` · one step taller here: ${signedSpan(quicker)}, ${signedUm(coarser)}`}
      {slower !== 0 && ` · lower: ${signedSpan(slower)}, ${signedUm(finer)}`}
    </p>
  );
}
