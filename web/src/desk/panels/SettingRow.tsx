import { clsx } from "clsx";

import type { Effect, Setting } from "../../api/client";
import { plain, signedMass, signedSpan, signedUm, textOf } from "../../format";
import { NumberField } from "./NumberField";
import { inWords } from "../state/recipes";

interface Line {
  setting: Setting;
  value: unknown;
  /** What it starts from: the recipe's value, else the default. */
  start: unknown;
  recipe: string | null;
  inherited: unknown;
  effect: Effect | null;
}

/** One setting in one line: its name, its value with unit, what it last moved, the way back. */
export function SettingRow({
  setting,
  value,
  start,
  recipe,
  inherited,
  effect,
  atHand,
  onAtHand,
  onValue,
  onAsked,
}: Line & {
  atHand: boolean;
  onAtHand: () => void;
  onValue: (value: unknown) => void;
  /** The maker looks at this one: what it does is said at the drawer's foot. */
  onAsked: () => void;
}) {
  const now = value === undefined ? setting.default : value;
  const changed = !same(now, start);
  const id = `setting-${setting.name}`;
  return (
    <div
      className={clsx(
        "flex min-h-[25px] flex-wrap items-center gap-x-1.5 border-b border-hairline",
        "focus-within:bg-paper hover:bg-paper",
      )}
      data-setting={setting.name}
      onPointerEnter={onAsked}
      onFocus={onAsked}
    >
      <label
        htmlFor={id}
        className="min-w-28 flex-1 truncate text-[13px]"
        title={setting.label}
      >
        {changed && (
          <span
            className="text-fjord"
            title={`differs from the ${recipe ? "recipe" : "default"}`}
          >
            ◆{" "}
          </span>
        )}
        {setting.label}
      </label>
      {effect && <Moved effect={effect} name={setting.name} />}
      {changed && (
        <button className="slim" onClick={() => onValue(start)}>
          back to {start === null ? ownerOf(setting) : inWords(start, setting.unit)}
        </button>
      )}
      <span className="compact inline-flex min-w-[7.6rem] items-center">
        <ValueEditor
          setting={setting}
          id={id}
          value={now}
          inherited={inherited}
          onValue={onValue}
        />
      </span>
      <button
        className="slim border-transparent bg-transparent"
        aria-pressed={atHand}
        aria-label="Keep at hand"
        title="keep at hand"
        onClick={onAtHand}
      >
        {atHand ? "★" : "☆"}
      </button>
    </div>
  );
}

/** What a setting does, its bounds, where its value comes from, and what it last moved. */
export function SettingHelp({ setting, value, start, recipe, effect }: Line) {
  const now = value === undefined ? setting.default : value;
  const fromRecipe = recipe !== null && !same(start, setting.default);
  let origin = now === null ? ownerOf(setting) : "the defaults";
  if (!same(now, start)) origin = "this plan";
  else if (fromRecipe) origin = `the recipe '${recipe}'`;
  return (
    <>
      <b>{setting.label}.</b> {setting.help}
      <span className="narrow text-ink-2">
        {setting.min !== null &&
          setting.max !== null &&
          ` ${plain(setting.min)} to ${plain(setting.max)}${setting.unit && ` ${setting.unit}`}.`}
        {` From ${origin}.`}
        {setting.moves.length > 0 && ` Moves ${setting.moves.join(", ")}.`}
      </span>
      {effect && <LastEffect setting={setting} effect={effect} />}
    </>
  );
}

export const same = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b);

/** Whose value it is while the plan leaves it open. */
const ownerOf = (setting: Setting) =>
  setting.source.includes(".") ? "the setting it follows" : `the ${setting.source}'s`;

/** The most that the last change of a setting moved, in few letters. */
function Moved({ effect, name }: { effect: Effect; name: string }) {
  return (
    <span
      data-effect={name}
      className="narrow text-[12px] whitespace-nowrap text-ink-2"
      title="what its last change did"
    >
      {signedSpan(effect.time_s)}, {signedMass(effect.mass_g)}, {signedUm(effect.p95_um)}
    </span>
  );
}

/** What the last change of a setting did, from the exact plans before and after it. */
function LastEffect({ setting, effect }: { setting: Setting; effect: Effect }) {
  const mine = effect.changes.find((change) => change.name === setting.name);
  const others = effect.changes.length - 1;
  if (!mine) return null;
  const word = (value: unknown) =>
    value === null ? inWords(setting.default, setting.unit) : inWords(value, setting.unit);
  return (
    <span className="narrow">
      {" "}
      Last change, {word(mine.before)} → {word(mine.after)}: <b>{signedSpan(effect.time_s)}</b>
      , <b>{signedMass(effect.mass_g)}</b>, <b>{signedUm(effect.p95_um)}</b>
      {others > 0 && ` with ${others} other ${others === 1 ? "setting" : "settings"} at once`}.
    </span>
  );
}

const shown = (value: unknown): string =>
  typeof value === "number"
    ? plain(value)
    : Array.isArray(value)
      ? value.map((entry) => plain(Number(entry))).join(", ")
      : value === undefined || value === null
        ? ""
        : textOf(value);

export function ValueEditor({
  setting,
  id,
  value,
  inherited,
  onValue,
}: {
  setting: Setting;
  id: string;
  value: unknown;
  inherited: unknown;
  onValue: (value: unknown) => void;
}) {
  if (setting.type === "bool")
    return (
      <input
        id={id}
        type="checkbox"
        className="h-5 w-5 accent-ink"
        checked={value === true}
        onChange={(event) => onValue(event.target.checked)}
      />
    );
  if (setting.type === "choice")
    return (
      <select
        id={id}
        className="field"
        value={String(value)}
        onChange={(event) => onValue(event.target.value)}
      >
        {setting.choices.map((choice) => (
          <option key={choice}>{choice}</option>
        ))}
      </select>
    );
  if (setting.type === "text")
    return (
      <textarea
        id={id}
        className="field w-full font-mono text-[12px]"
        rows={setting.multiline ? 4 : 1}
        defaultValue={textOf(value ?? inherited ?? "")}
        onBlur={(event) => {
          if (event.target.value !== textOf(value ?? inherited ?? ""))
            onValue(event.target.value || null);
        }}
      />
    );
  if (setting.type === "numbers")
    return (
      <Numbers
        id={id}
        unit={setting.unit}
        value={Array.isArray(value) ? (value as number[]) : []}
        onValue={onValue}
      />
    );
  return (
    <NumberField
      id={id}
      label={setting.label}
      unit={setting.unit}
      value={typeof value === "number" ? value : null}
      min={setting.min}
      max={setting.max}
      step={
        setting.type === "integer"
          ? 1
          : setting.name.endsWith("layer_height")
            ? 0.01
            : undefined
      }
      {...(setting.optional ? { placeholder: shown(inherited) } : {})}
      onValue={(next) =>
        onValue(
          next === null
            ? setting.default
            : setting.type === "integer"
              ? Math.round(next)
              : next,
        )
      }
    />
  );
}

/** A list of numbers, typed with commas or spaces between. */
function Numbers({
  id,
  unit,
  value,
  onValue,
}: {
  id: string;
  unit: string;
  value: number[];
  onValue: (value: unknown) => void;
}) {
  const keep = (text: string) => {
    const found = text
      .split(/[\s,;]+/)
      .filter(Boolean)
      .map(Number);
    if (found.length && found.every(Number.isFinite) && found.join() !== value.join())
      onValue(found);
  };
  return (
    <span className="flex items-center gap-1">
      <input
        id={id}
        key={value.join()}
        className="field w-40"
        defaultValue={value.map(plain).join(", ")}
        onBlur={(event) => keep(event.target.value)}
        onKeyDown={(event) => event.key === "Enter" && keep(event.currentTarget.value)}
      />
      <span className="narrow text-ink-3">{unit}</span>
    </span>
  );
}
