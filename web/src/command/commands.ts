/** What can be done by typing a few words: commands, and which of them are meant. */
import { createContext, useContext, useEffect } from "react";

export interface Command {
  key: string;
  /** What is shown, and what typed words are looked for in. */
  words: string;
  /** Further words it is found by. */
  also?: string;
  /** What kind of thing it is. */
  kind: string;
  /** Does it; null: it cannot be done, which its words say. */
  run: (() => void) | null;
  /** What it would come to, in words. */
  effect?: (signal: AbortSignal) => Promise<string>;
}

/** Commands for what was typed. */
export type Source = (typed: string) => Command[];

export interface Sources {
  add: (source: Source) => () => void;
}
export const SourcesContext = createContext<Sources | null>(null);

/** The commands of a screen, as long as it is there. ``source`` has to stay the same one. */
export function useCommands(source: Source) {
  const sources = useContext(SourcesContext);
  useEffect(() => sources?.add(source), [sources, source]);
}

const plain = (text: string): string =>
  text
    .toLowerCase()
    .normalize("NFD")
    .replace(/[\u0300-\u036f]/g, "");

/**
 * How well typed words mean a text: every one has to begin a word of it, or at least lie in it; 0
 * where one does not.
 */
export function meant(typed: string, text: string): number {
  const words = plain(text)
    .split(/[^\p{L}\p{N}.]+/u)
    .filter(Boolean);
  let score = 1;
  for (const want of plain(typed).split(/\s+/).filter(Boolean)) {
    const at = words.findIndex((word) => word.startsWith(want));
    if (at >= 0) score += words[at] === want ? 3 : 2 - Math.min(at, 9) / 10;
    else if (words.some((word) => word.includes(want))) score += 0.2;
    else return 0;
  }
  // of texts that fit alike the shortest is meant
  return score + 1 / (1 + words.length);
}

/** What was typed without a value at its end, and that value: 'infill 12' is infill and 12. */
export function withNumber(typed: string): [string, number | null] {
  const found = /^(.*?)\s*(-?\d+(?:[.,]\d+)?)\s*(?:%|[a-zµ°²³/]+)?$/iu.exec(typed.trim());
  if (!found) return [typed, null];
  return [found[1] ?? "", Number((found[2] ?? "").replace(",", "."))];
}

/** The commands that are meant, the likeliest first. */
export function ranked(typed: string, all: Command[], most: number): Command[] {
  return all
    .map((command) => ({
      command,
      score: meant(typed, `${command.words} ${command.also ?? ""}`),
    }))
    .filter(({ score }) => score > 0)
    .sort((a, b) => b.score - a.score)
    .slice(0, most)
    .map(({ command }) => command);
}
