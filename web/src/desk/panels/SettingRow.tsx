import type { Effect, Setting } from "../../api/client";
import { plain, signedSpan, signedUm, textOf } from "../../format";
import { NumberField } from "./NumberField";
import { inWords } from "../state/recipes";

/**
 * One setting: value with unit, bounds, where the value comes from, what it moves and last moved,
 * and the way back.
 */
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
}: {
  setting: Setting;
  value: unknown;
  start: unknown;
  recipe: string | null;
  inherited: unknown;
  effect: Effect | null;
  atHand: boolean;
  onAtHand: () => void;
  onValue: (value: unknown) => void;
}) {
  const now = value === undefined ? setting.default : value;
  const changed = JSON.stringify(now) !== JSON.stringify(start);
  const fromRecipe =
    recipe !== null && JSON.stringify(start) !== JSON.stringify(setting.default);
  const source = setting.source.includes(".") ? "setting it follows" : setting.source;
  let origin = now === null ? `the ${source}` : "the defaults";
  if (changed) origin = "this plan";
  else if (fromRecipe) origin = `the recipe '${recipe}'`;
  const id = `setting-${setting.name}`;
  return (
    <div className="border-b border-hairline py-2" data-setting={setting.name}>
      <div className="flex flex-wrap items-center gap-x-2 gap-y-1">
        <label htmlFor={id} className="w-40 font-medium">
          {setting.label}
          {changed && (
            <span
              className="text-fjord"
              title={`differs from the ${recipe ? "recipe" : "default"}`}
            >
              {" "}
              ◆
            </span>
          )}
        </label>
        <ValueEditor
          setting={setting}
          id={id}
          value={now}
          inherited={inherited}
          onValue={onValue}
        />
        <span className="ml-auto flex gap-1">
          {changed && (
            <button className="quiet" onClick={() => onValue(start)}>
              back to {start === null ? `the ${source}'s` : inWords(start, setting.unit)}
            </button>
          )}
          <button
            className="quiet"
            aria-pressed={atHand}
            aria-label="Keep at hand"
            title="keep at hand"
            onClick={onAtHand}
          >
            {atHand ? "★" : "☆"}
          </button>
        </span>
      </div>
      <p className="mt-0.5 text-[12px] text-ink-2">
        {setting.help}
        <span className="narrow text-ink-3">
          {setting.min !== null &&
            setting.max !== null &&
            ` ${plain(setting.min)} to ${plain(setting.max)}${setting.unit && ` ${setting.unit}`}.`}
          {` From ${origin}.`}
          {setting.moves.length > 0 && ` Moves ${setting.moves.join(", ")}.`}
        </span>
      </p>
      {effect && <LastEffect setting={setting} effect={effect} />}
    </div>
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
    <p data-effect={setting.name} className="narrow text-[12px]">
      last change, {word(mine.before)} → {word(mine.after)}: <b>{signedSpan(effect.time_s)}</b>
      ,{" "}
      <b>
        {effect.mass_g < 0 ? "−" : "+"}
        {Math.abs(effect.mass_g).toFixed(1)} g
      </b>
      , <b>{signedUm(effect.p95_um)}</b>
      {others > 0 && (
        <span className="text-ink-3">
          {" "}
          with {others} other {others === 1 ? "setting" : "settings"} at once
        </span>
      )}
    </p>
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
