import { useState } from "react";

import { plain } from "../../format";

/**
 * A typed number with its unit. Enter or leaving the field takes it; up and down step it; what is
 * out of range says so.
 */
export function NumberField({
  label,
  value,
  unit,
  min,
  max,
  step,
  onValue,
  width = "w-20",
  id,
  placeholder,
  again = false,
}: {
  label: string;
  value: number | null;
  unit: string;
  min?: number | null;
  max?: number | null;
  step?: number;
  onValue: (value: number | null) => void;
  width?: string;
  id?: string;
  placeholder?: string;
  /** Enter counts even for the value that stands there already. */
  again?: boolean;
}) {
  const [typed, setTyped] = useState<string | null>(null);
  const text = typed ?? (value === null ? "" : plain(value));
  const parsed = text.trim() === "" ? null : Number(text.replace(",", "."));
  const wrong =
    parsed === null
      ? placeholder === undefined && typed !== null
      : !Number.isFinite(parsed) ||
        (min != null && parsed < min) ||
        (max != null && parsed > max);
  const take = () => {
    if (typed === null || wrong) return;
    setTyped(null);
    if (parsed !== value || again) onValue(parsed);
  };
  const nudge = (direction: number) => {
    const by = step ?? (Math.abs(value ?? 0) >= 10 ? 1 : 0.05);
    const next = Number(((parsed ?? 0) + direction * by).toFixed(4));
    if ((min != null && next < min) || (max != null && next > max)) return;
    setTyped(null);
    onValue(next);
  };
  return (
    <span className="inline-flex items-center gap-1">
      <input
        id={id}
        className={`field text-right ${width}`}
        inputMode="decimal"
        aria-label={label}
        aria-invalid={wrong}
        value={text}
        placeholder={placeholder}
        onChange={(event) => setTyped(event.target.value)}
        onBlur={() => (wrong ? setTyped(null) : take())}
        onKeyDown={(event) => {
          if (event.key === "Enter" && typed === null && again) onValue(value);
          else if (event.key === "Enter") take();
          if (event.key === "Escape") setTyped(null);
          if (event.key === "ArrowUp" || event.key === "ArrowDown") {
            event.preventDefault();
            nudge(event.key === "ArrowUp" ? 1 : -1);
          }
        }}
      />
      <span className="narrow text-[13px] text-ink-2">{unit}</span>
      {wrong && (
        <span role="alert" className="text-[12px] text-stop">
          {min != null && max != null ? `${plain(min)} to ${plain(max)} ${unit}` : "a number"}
        </span>
      )}
    </span>
  );
}
