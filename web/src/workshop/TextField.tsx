import { useState } from "react";

/** A typed text that is kept with Enter or by leaving the field; Escape puts it back. */
export function TextField({
  label,
  value,
  onValue,
  size = "",
  width = "w-52",
  placeholder,
  mayBeEmpty = false,
}: {
  label: string;
  value: string;
  onValue: (value: string) => void;
  size?: string;
  width?: string;
  placeholder?: string;
  mayBeEmpty?: boolean;
}) {
  const [typed, setTyped] = useState<string | null>(null);
  const keep = () => {
    if (typed !== null && (mayBeEmpty || typed.trim()) && typed.trim() !== value)
      onValue(typed.trim());
    setTyped(null);
  };
  return (
    <input
      className={`field ${width} ${size}`}
      aria-label={label}
      value={typed ?? value}
      placeholder={placeholder}
      maxLength={200}
      onChange={(event) => setTyped(event.target.value)}
      onBlur={keep}
      onKeyDown={(event) => {
        if (event.key === "Enter") keep();
        if (event.key === "Escape") setTyped(null);
      }}
    />
  );
}
