import { useState } from "react";

import { hours, signedSpan } from "../../../format";
import { featureOf } from "../../../tokens";
import { NumberField } from "../NumberField";
import { type Choice, withValue } from "../../state/choice";
import { useRoom } from "../../state/room";
import type { Figures } from "../../state/useDesk";
import { useQuick } from "../../state/useQuick";

/** Features whose times are told while the dial moves. */
const TOLD = 4;

/** One dial from precise to quick: what each step of it changes, and what its ends would take. */
export function Dial() {
  const { plan, desk } = useRoom();
  const share = Number(desk.choice.settings.pace?.dial ?? 50);
  /** The figures when a hand took hold of it, to tell what it moved. */
  const [before, setBefore] = useState<Figures | null>(null);
  const at = (value: number): Choice => ({
    ...desk.choice,
    settings: withValue(desk.choice.settings, "pace", "dial", value, null),
  });
  const ends = useQuick(plan.id, at(share), before ? [] : [at(0), at(100)]).answers;
  const [slowest, quickest] = ends.map((answer) => answer.data?.time_s.total);
  const end = (seconds: number | undefined) => (seconds ? `≈ ${hours(seconds)} h` : "…");
  const hold = () => {
    if (!before && desk.figures) setBefore(desk.figures);
  };
  const settle = (value: number) => {
    if (value !== share || before) desk.settle(at(value));
  };
  return (
    <div className="flex flex-col gap-1" data-dial>
      <div className="flex items-center gap-2 text-[13px]">
        <span className="whitespace-nowrap">
          precise <b className="narrow text-ink-2">{end(slowest)}</b>
        </span>
        <input
          type="range"
          aria-label="Dial from precise to quick"
          aria-valuetext={`${share} % of the way to quick`}
          className="min-w-24 flex-1 accent-north"
          min={0}
          max={100}
          step={1}
          value={share}
          onPointerDown={hold}
          onChange={(event) => {
            hold();
            desk.slide(at(Number(event.target.value)));
          }}
          onPointerUp={(event) => settle(Number(event.currentTarget.value))}
          onKeyUp={(event) => {
            if (/^(Arrow|Page|Home|End)/.test(event.key))
              settle(Number(event.currentTarget.value));
          }}
        />
        <span className="whitespace-nowrap">
          quick <b className="narrow text-ink-2">{end(quickest)}</b>
        </span>
        <NumberField
          label="Dial"
          unit="%"
          value={share}
          min={0}
          max={100}
          step={5}
          width="w-12"
          onValue={(value) => {
            if (value === null) return;
            hold();
            desk.change(at(value));
          }}
        />
      </div>
      <p aria-live="polite" className="min-h-5 text-[12px] text-ink-2">
        {before && desk.figures && desk.figures !== before
          ? moved(before, desk.figures)
          : "Every speed and acceleration goes along, but for those typed by hand."}
      </p>
    </div>
  );
}

/** Where time went, the largest change first. */
function moved(before: Figures, now: Figures): string {
  const names = [
    ...new Set([...Object.keys(before.byFeature), ...Object.keys(now.byFeature)]),
  ];
  const changes = names
    .map(
      (name) =>
        [
          featureOf(name)?.label ?? name,
          (now.byFeature[name] ?? 0) - (before.byFeature[name] ?? 0),
        ] as const,
    )
    .filter(([, seconds]) => Math.abs(seconds) >= 1)
    .sort(([, a], [, b]) => Math.abs(b) - Math.abs(a))
    .slice(0, TOLD)
    .map(([name, seconds]) => `${name} ${signedSpan(seconds)}`);
  const mark = now.state === "quick" ? "≈ " : "";
  return `${mark}${signedSpan(now.time - before.time)} since it was taken up${
    changes.length ? `: ${changes.join(", ")}` : ""
  }`;
}
