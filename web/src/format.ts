/** Figures for people. Rounding happens here and nowhere else. */

export function hours(seconds: number): string {
  const minutes = Math.round(seconds / 60);
  return `${Math.floor(minutes / 60)}:${String(minutes % 60).padStart(2, "0")}`;
}

/**
 * Ticks of a scale with their words, none of which stands twice: as many as have words of their
 * own.
 */
export function distinct(
  ticks: readonly number[],
  words: (tick: number) => string,
): (readonly [number, string])[] {
  const said = new Set<string>();
  return ticks.flatMap((tick) => {
    const word = words(tick);
    if (said.has(word)) return [];
    said.add(word);
    return [[tick, word] as const];
  });
}

/** Minutes of a scale that is so wide: h:min, with seconds where minutes would repeat. */
export function minutesOn(wide: number): (minutes: number) => string {
  if (wide >= 6) return (minutes) => hours(60 * minutes);
  const two = (value: number) => String(value).padStart(2, "0");
  return (minutes) => {
    const seconds = Math.round(60 * minutes);
    const rest = `${two(Math.floor(seconds / 60) % 60)}:${two(seconds % 60)}`;
    return `${Math.floor(seconds / 3600)}:${rest}`;
  };
}

/** A short time with its unit: 48 s, 12 min, 1:05 h. */
export function span(seconds: number): string {
  if (seconds < 99.5) return `${seconds < 9.95 ? seconds.toFixed(1) : Math.round(seconds)} s`;
  if (seconds < 5970) return `${Math.round(seconds / 60)} min`;
  return `${hours(seconds)} h`;
}

export const grams = (g: number): string => (g < 100 ? g.toFixed(1) : g.toFixed(0));
export const metres = (mm: number): string => (mm / 1000).toFixed(mm < 100_000 ? 2 : 1);
export const euro = (value: number): string => `${value.toFixed(2)} €`;
export const count = (value: number): string =>
  value.toLocaleString("en-GB").replaceAll(",", "\u202f");

export function size(mm: readonly number[]): string {
  return `${mm.map((v) => (v < 100 ? v.toFixed(1) : v.toFixed(0))).join(" × ")} mm`;
}

export function bytes(value: number): string {
  if (value >= 1e9) return `${(value / 1e9).toFixed(1)} GB`;
  if (value >= 1e6) return `${(value / 1e6).toFixed(1)} MB`;
  return value > 0 ? `${Math.max(1, Math.round(value / 1e3))} kB` : "nothing";
}

/** A number without needless zeros. */
export function plain(value: number): string {
  return String(Number(value.toFixed(4)));
}

/** A sentence whose figures stay with their units at the end of a line. */
export function unbroken(sentence: string): string {
  return sentence.replace(
    /(\d) (?=(?:%|g|mm|mm²|mm³|µm|min|s|h|m|°C|€)(?![\w]))/g,
    "$1\u00a0",
  );
}

/** A difference in time with its sign: −2 min, +38 s, same. */
export function signedSpan(seconds: number): string {
  return Math.abs(seconds) < 0.5
    ? "same time"
    : `${seconds < 0 ? "−" : "+"}${span(Math.abs(seconds))}`;
}

/** A difference in mass with its sign: +1.2 g, ±0 g. */
export function signedMass(g: number): string {
  return Math.abs(g) < 0.05 ? "±0 g" : `${g < 0 ? "−" : "+"}${grams(Math.abs(g))} g`;
}

/** A difference in micrometres with its sign. */
export function signedUm(um: number): string {
  return Math.abs(um) < 0.5 ? "±0 µm" : `${um < 0 ? "−" : "+"}${Math.round(Math.abs(um))} µm`;
}

/** A change as a signed share of what was. */
export function signedPercent(now: number, before: number): string {
  if (before <= 0) return "";
  const share = Math.round((100 * (now - before)) / before);
  return share === 0 ? "±0 %" : `${share < 0 ? "−" : "+"}${Math.abs(share)} %`;
}

/** A difference in a measure with its sign: −0.20 mm. */
export const signedMm = (mm: number): string =>
  `${mm < 0 ? "−" : "+"}${Math.abs(mm).toFixed(2)} mm`;

/** A setting's value as text; what has no words of its own is written as JSON. */
export const textOf = (value: unknown): string => {
  if (typeof value === "string") return value;
  return typeof value === "number" || typeof value === "boolean"
    ? String(value)
    : JSON.stringify(value);
};

/** A date and time of the service, as the maker's clock has it: 28 Nov 2026, 08:30. */
export const when = (iso: string): string =>
  new Date(iso).toLocaleString("en-GB", {
    day: "numeric",
    month: "short",
    year: "numeric",
    hour: "2-digit",
    minute: "2-digit",
  });

/** A day of the service, as the maker's calendar has it: 28 Nov 2026. */
export function day(stated: string): string {
  return new Date(stated).toLocaleDateString("en-GB", {
    day: "numeric",
    month: "short",
    year: "numeric",
  });
}

/** How many of the prints whose outcome was told came out well. */
export function outcomes({ told, good }: { told: number; good: number }): string {
  return told === 0 ? "not told yet" : `${good} of ${told}`;
}
