import type { Setting } from "../api/client";
import { plain } from "../format";
import { NumberField } from "./NumberField";

/** One setting: value with unit, bounds, where the value comes from, what it moves, and the way back. */
export function SettingRow({ setting, value, inherited, onValue }: {
  setting: Setting; value: unknown; inherited: unknown; onValue: (value: unknown) => void;
}) {
  const changed = value !== setting.default && !(value === undefined);
  const now = value === undefined ? setting.default : value;
  const id = `setting-${setting.name}`;
  return (
    <div className="border-b border-hairline py-2" data-setting={setting.name}>
      <div className="flex flex-wrap items-center gap-x-2 gap-y-1">
        <label htmlFor={id} className="w-40 font-medium">{setting.label}{changed && <span className="text-fjord" title="differs from the default"> ◆</span>}</label>
        <Editor setting={setting} id={id} value={now} inherited={inherited} onValue={onValue} />
        {changed && (
          <button className="quiet ml-auto" onClick={() => onValue(setting.default)}>
            back to {setting.default === null ? `the ${setting.source}'s` : `${shown(setting.default)} ${setting.unit}`}
          </button>
        )}
      </div>
      <p className="mt-0.5 text-[12px] text-ink-2">
        {setting.help}
        <span className="narrow text-ink-3">
          {setting.min !== null && setting.max !== null && ` ${plain(setting.min)} to ${plain(setting.max)}${setting.unit && ` ${setting.unit}`}.`}
          {` From ${changed ? "this plan" : setting.default === null ? `the ${setting.source}` : "the defaults"}.`}
          {setting.moves.length > 0 && ` Moves ${setting.moves.join(", ")}.`}
        </span>
      </p>
    </div>
  );
}

const shown = (value: unknown): string =>
  typeof value === "number" ? plain(value) : Array.isArray(value) ? value.map((entry) => plain(Number(entry))).join(", ") : value === undefined || value === null ? "" : String(value);

function Editor({ setting, id, value, inherited, onValue }: {
  setting: Setting; id: string; value: unknown; inherited: unknown; onValue: (value: unknown) => void;
}) {
  if (setting.type === "bool")
    return <input id={id} type="checkbox" className="h-5 w-5 accent-ink" checked={value === true} onChange={(event) => onValue(event.target.checked)} />;
  if (setting.type === "choice")
    return (
      <select id={id} className="field" value={String(value)} onChange={(event) => onValue(event.target.value)}>
        {setting.choices.map((choice) => <option key={choice}>{choice}</option>)}
      </select>
    );
  if (setting.type === "text")
    return (
      <textarea id={id} className="field w-full font-mono text-[12px]" rows={setting.multiline ? 4 : 1} defaultValue={String(value ?? inherited ?? "")}
        onBlur={(event) => { if (event.target.value !== String(value ?? inherited ?? "")) onValue(event.target.value || null); }} />
    );
  if (setting.type === "numbers")
    return <Numbers id={id} unit={setting.unit} value={Array.isArray(value) ? (value as number[]) : []} onValue={onValue} />;
  return (
    <NumberField id={id} label={setting.label} unit={setting.unit} value={typeof value === "number" ? value : null} min={setting.min} max={setting.max}
      step={setting.type === "integer" ? 1 : setting.name.endsWith("layer_height") ? 0.01 : undefined}
      {...(setting.optional ? { placeholder: shown(inherited) } : {})}
      onValue={(next) => onValue(next === null ? setting.default : setting.type === "integer" ? Math.round(next) : next)} />
  );
}

/** A list of numbers, typed with commas or spaces between. */
function Numbers({ id, unit, value, onValue }: { id: string; unit: string; value: number[]; onValue: (value: unknown) => void }) {
  const keep = (text: string) => {
    const found = text.split(/[\s,;]+/).filter(Boolean).map(Number);
    if (found.length && found.every(Number.isFinite) && found.join() !== value.join()) onValue(found);
  };
  return (
    <span className="flex items-center gap-1">
      <input id={id} key={value.join()} className="field w-40" defaultValue={value.map(plain).join(", ")} onBlur={(event) => keep(event.target.value)}
        onKeyDown={(event) => event.key === "Enter" && keep(event.currentTarget.value)} />
      <span className="narrow text-ink-3">{unit}</span>
    </span>
  );
}
