import { clsx } from "clsx";
import { Popover } from "radix-ui";
import type { ReactNode } from "react";

import { useNewBed } from "../../beds/useNewBed";
import { euro, grams, hours, metres, signedPercent, signedSpan, span } from "../../format";
import { keysFor } from "../../frame/shortcuts";
import { MEASURES } from "../panels/tradeoff/frontier";
import { numberOr } from "../state/choice";
import { baselineName } from "../state/useGhost";
import { useRoom } from "../state/room";
import { Others } from "./Others";

/**
 * The title sentence: each underlined word opens its choice; the figures beside it are the largest
 * thing on the desk.
 */
export function Header({
  onCommit,
  onFindings,
}: {
  onCommit: () => void;
  onFindings: () => void;
}) {
  const { plan, desk, machine, machines, materials, ghost } = useRoom();
  const { choice, change, figures, report } = desk;
  const newBed = useNewBed();
  const nozzle = machine?.nozzles.find((entry) => entry.id === choice.nozzle);
  const material = materials.find((entry) => entry.id === choice.material);
  const spool = material?.spools.find((entry) => entry.id === choice.spool);
  const fitting =
    spool && figures && figures.mass > 0 ? Math.floor(spool.usable_mass / figures.mass) : null;
  const mark = figures?.state === "quick" ? "≈ " : "";
  const { key, word } = MEASURES[desk.wanted.measure];
  const compared = ghost.base?.report ?? null;
  const than = compared ? `vs ${baselineName(plan)}` : "";
  const looks = report?.findings.filter((finding) => finding.severity !== "note").length ?? 0;
  const stops = report?.findings.filter((finding) => finding.severity === "stop").length ?? 0;
  const spread = numberOr(desk.now.spec.machine?.estimate_spread, 0) / 100;
  return (
    <header
      className={clsx(
        "flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-hairline",
        "bg-sheet px-4 py-1.5",
      )}
    >
      <div className="min-w-[min(26rem,100%)] flex-1">
        <h1 className="flex items-baseline gap-1.5 text-lg leading-tight font-semibold">
          <span className="truncate" title={plan.part.name}>
            {plan.part.name}
          </span>
          <span className="text-[13px] font-normal whitespace-nowrap text-ink-2">
            plan {plan.number}
          </span>
          <Others />
        </h1>
        {/* one line: a long name gives way, not the figures behind it */}
        <p className="flex min-w-0 items-center text-[13px] whitespace-pre">
          on{" "}
          <Choice word={machine?.name ?? "…"} label="Machine">
            {machines.map((entry) => (
              <Option
                key={entry.id}
                on={entry === machine}
                onPick={() =>
                  change({ ...choice, nozzle: entry.nozzles[0]?.id ?? choice.nozzle })
                }
              >
                {entry.name}
              </Option>
            ))}
          </Choice>
          ,{" "}
          <Choice word={`${nozzle?.bore ?? "…"} nozzle`} label="Nozzle">
            {machine?.nozzles.map((entry) => (
              <Option
                key={entry.id}
                on={entry === nozzle}
                onPick={() => change({ ...choice, nozzle: entry.id })}
              >
                {entry.bore} mm, up to {entry.flow} mm³/s
              </Option>
            ))}
          </Choice>
          , in{" "}
          <Choice word={material?.name ?? "…"} label="Material">
            {materials.map((entry) => (
              <Option
                key={entry.id}
                on={entry === material}
                onPick={() =>
                  change({ ...choice, material: entry.id, spool: entry.spools[0]?.id ?? null })
                }
              >
                {entry.name}
              </Option>
            ))}
          </Choice>
          {"\u00a0from "}
          <Choice word={spool?.label ?? "no spool"} label="Spool">
            {material?.spools.map((entry) => (
              <Option
                key={entry.id}
                on={entry === spool}
                onPick={() => change({ ...choice, spool: entry.id })}
              >
                {entry.label}, {entry.colour}, {grams(entry.usable_mass)} g left
              </Option>
            ))}
            <Option on={!spool} onPick={() => change({ ...choice, spool: null })}>
              no spool yet
            </Option>
          </Choice>
          {spool && fitting !== null && (
            <span className={fitting < 1 ? "text-stop" : "text-ink-2"}>
              {" "}
              ({grams(spool.usable_mass)} g left,{" "}
              {fitting < 1 ? "not enough for one" : `${fitting} of these`})
            </span>
          )}
        </p>
      </div>
      <dl
        className={`flex flex-wrap gap-x-4 ${figures?.state === "old" ? "opacity-45" : ""}`}
        aria-live="polite"
        data-state={figures?.state ?? "none"}
        data-version={plan.latest.number}
      >
        <Figure
          name="time"
          value={figures ? `${mark}${hours(figures.time)} h` : "…"}
          below={
            (figures ? rangeOf(figures.time, spread) : "") +
            (figures && compared
              ? `${signedSpan(figures.time - compared.time_s.total)} ${than}`
              : "heating and homing in it")
          }
          id="time"
        />
        <Figure
          name="filament"
          value={figures ? `${mark}${grams(figures.mass)} g` : "…"}
          below={figures ? `${metres(figures.length)} m · ${euro(figures.cost)}` : ""}
          said={false}
          id="mass"
        />
        <Figure
          name="step error"
          value={figures ? `${mark}${Math.round(figures.surface[key])} µm` : "…"}
          below={
            figures && compared
              ? `${word} ${signedPercent(figures.surface[key], compared.surface[key])} ${than}`
              : word
          }
          id="surface"
        />
        <Figure
          name="layers"
          value={figures ? String(figures.layers.count) : "…"}
          below=""
          title={
            figures
              ? compared
                ? `${compared.layers.count} in ${baselineName(plan)}`
                : layerWord(figures.layers.heights_mm)
              : ""
          }
          id="layers"
        />
        <Figure
          name="findings"
          value={report ? `${looks}${stops ? " ■" : looks ? " ▲" : ""}` : "…"}
          below={stops ? "would not print" : looks ? "to look at" : "nothing to look at"}
          id="findings"
          tone={stops ? "text-stop" : looks ? "text-look" : ""}
          title={`Show them ${keysFor("findings")}`}
          onPick={onFindings}
        />
      </dl>
      <div className="grid grid-cols-[auto_auto] gap-1">
        <span className="flex gap-1">
          {(
            [
              ["Undo", "undo", desk.canUndo, desk.undo],
              ["Redo", "redo", desk.canRedo, desk.redo],
            ] as const
          ).map(([word, name, can, step]) => (
            <button
              key={name}
              className="slim flex-1 px-1.5"
              disabled={!can}
              onClick={step}
              title={keysFor(name)}
            >
              {word}
            </button>
          ))}
        </span>
        <button
          className="action row-span-2 max-w-24 leading-tight whitespace-normal"
          disabled={!desk.upToDate}
          onClick={onCommit}
          title={desk.upToDate ? "" : "A job is committed from exact figures"}
        >
          Commit job …
        </button>
        <button
          className="slim px-1.5"
          disabled={!desk.upToDate || newBed.isPending}
          title={
            newBed.error?.message ??
            (desk.upToDate ? "Copies of it on one plate" : "A bed is laid from exact plans")
          }
          onClick={() => newBed.mutate({ plans: [plan.id] })}
        >
          Put on a bed …
        </button>
      </div>
    </header>
  );
}

/**
 * What a time may come to by how far the machine's jobs were off: two standard deviations to either
 * side, nothing while that is not known.
 */
function rangeOf(time: number, spread: number): string {
  const off = 2 * spread * time;
  return off < 1 ? "" : `± ${span(off)} · `;
}

function layerWord(heights: number[]): string {
  const rest = heights.slice(1);
  if (!rest.length) return "one layer";
  const [low, high] = [Math.min(...rest), Math.max(...rest)];
  return low === high ? `even at ${low} mm` : `${low} to ${high} mm`;
}

function Figure({
  name,
  value,
  below,
  id,
  tone = "",
  title,
  said = true,
  onPick,
}: {
  name: string;
  value: string;
  below: string;
  id: string;
  tone?: string;
  title?: string;
  /** Whether its name stands below it; a unit can say as much. */
  said?: boolean;
  /** Leads to what it counts. */
  onPick?: () => void;
}) {
  return (
    <div className="flex min-w-12 flex-col" title={title}>
      <dt className="sr-only">{name}</dt>
      <dd
        data-figure={id}
        className={`text-[22px] leading-tight font-semibold whitespace-nowrap ${tone}`}
      >
        {onPick ? (
          <button className="word" aria-label={`${name}: ${value}, ${below}`} onClick={onPick}>
            {value}
          </button>
        ) : (
          value
        )}
      </dd>
      <dd className="narrow text-[12px] whitespace-nowrap text-ink-2">
        {[said && name, below].filter(Boolean).join(" · ")}
      </dd>
    </div>
  );
}

function Choice({
  word,
  label,
  children,
}: {
  word: string;
  label: string;
  children: ReactNode;
}) {
  return (
    <Popover.Root>
      <Popover.Trigger
        className="word max-w-44 min-w-6 truncate"
        title={word}
        aria-label={`${label}: ${word}`}
      >
        {word}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="start"
          sideOffset={4}
          className="z-50 flex min-w-48 flex-col border border-edge bg-sheet p-1"
          aria-label={label}
        >
          {children}
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

function Option({
  on,
  onPick,
  children,
}: {
  on: boolean;
  onPick: () => void;
  children: ReactNode;
}) {
  return (
    <Popover.Close
      className={clsx(
        "min-h-8 border-0 bg-transparent px-2 text-left hover:bg-paper",
        on ? "font-semibold" : "",
      )}
      aria-current={on}
      onClick={onPick}
    >
      {on ? "● " : ""}
      {children}
    </Popover.Close>
  );
}
