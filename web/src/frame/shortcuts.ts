/** What keys do anywhere on the page, and how a maker changes them: kept on this computer. */
import { useEffect, useRef } from "react";

import { kept, useKept } from "./useKept";

export interface Shortcut {
  name: string;
  /** What it does, in words. */
  words: string;
  /** Keys as `keysOf` writes them. */
  keys: string;
}

/** All that can be changed, in the order of the sheet. */
export const SHORTCUTS = [
  { name: "bar", words: "Say what to do: the bar", keys: "/" },
  { name: "sheet", words: "This sheet of shortcuts", keys: "?" },
  { name: "undo", words: "Undo the last change of the plan", keys: "Ctrl z" },
  { name: "redo", words: "Do it again", keys: "Ctrl Shift z" },
  { name: "ghost", words: "Show the baseline through, while held", keys: "g" },
  { name: "settings", words: "Settings of the plan, open and closed", keys: "s" },
  { name: "larger", words: "More room for the instrument, or for the stage", keys: "l" },
  { name: "decide", words: "Trade-off", keys: "t" },
  { name: "findings", words: "Findings", keys: "f" },
  { name: "commit", words: "Commit the plan as a job", keys: "j" },
] as const satisfies readonly Shortcut[];

export type ShortcutName = (typeof SHORTCUTS)[number]["name"];
type Own = Partial<Record<ShortcutName, string>>;

/** Keys that do something in one place only, and stay what they are. */
export const FIXED: readonly (readonly [string, string, string])[] = [
  ["Height lanes", "← → ↑ ↓", "one layer; Page up and down ten, Home and End to the ends"],
  ["Height lanes", "Space", "play from the cursor, and stop"],
  ["Fields", "↑ ↓", "one step; Enter takes, Esc leaves what was"],
  ["Trade-off", "← → ↑ ↓", "move the target, with Shift ten times as far"],
  ["Turning on the stage", "Shift", "while dragging: by 1° instead of 15°"],
  [
    "Beds",
    "← → ↑ ↓",
    "move the placing by 1 mm, with Shift by 0.1 mm; [ and ] turn it by 15°",
  ],
];

const KEY = "northpace.shortcuts";
const NONE: Own = {};
const isOwn = (value: unknown): value is Own =>
  typeof value === "object" &&
  value !== null &&
  Object.values(value).every((keys) => typeof keys === "string");

const START = Object.fromEntries(SHORTCUTS.map(({ name, keys }) => [name, keys])) as Record<
  ShortcutName,
  string
>;

/** The keys of a shortcut as they are now. */
export const keysFor = (name: ShortcutName): string =>
  kept(KEY, NONE, isOwn)[name] ?? START[name];

export function useShortcutKeys() {
  const [own, keep] = useKept<Own>(KEY, NONE, isOwn);
  const all = { ...START, ...own };
  /** Give a shortcut other keys; who had them gets those it had. */
  const change = (name: ShortcutName, keys: string) => {
    const other = SHORTCUTS.find((one) => all[one.name] === keys && one.name !== name);
    keep({ ...own, [name]: keys, ...(other ? { [other.name]: all[name] } : {}) });
  };
  const reset = () => {
    keep(NONE);
  };
  return { all, change, reset, changed: Object.keys(own).length > 0 };
}

/** What a key press is called, `Ctrl Shift z`; nothing for a modifier alone. */
export function keysOf(event: {
  key: string;
  ctrlKey: boolean;
  metaKey: boolean;
  altKey: boolean;
  shiftKey: boolean;
}): string {
  if (["Control", "Shift", "Alt", "Meta", "Dead"].includes(event.key)) return "";
  const single = event.key.length === 1;
  const letter = single && event.key.toLowerCase() !== event.key.toUpperCase();
  const key = event.key === " " ? "Space" : letter ? event.key.toLowerCase() : event.key;
  // a sign like ? already says that Shift was held
  const shift = event.shiftKey && (letter || !single);
  return [
    (event.ctrlKey || event.metaKey) && "Ctrl",
    event.altKey && "Alt",
    shift && "Shift",
    key,
  ]
    .filter(Boolean)
    .join(" ");
}

/** Whether keys are being typed into something, so that they mean letters. */
export const isTyping = ({ target }: Event): boolean =>
  target instanceof HTMLElement &&
  (target.isContentEditable ||
    (target instanceof HTMLInputElement &&
      !["checkbox", "radio", "range", "button"].includes(target.type)) ||
    target instanceof HTMLTextAreaElement ||
    target instanceof HTMLSelectElement);

/** Whether a dialog is open, which then has the keys. */
const inDialog = () => document.querySelector("[role=dialog]") !== null;

/** Do something whenever a shortcut is pressed outside of fields and dialogs. */
export function useShortcut(name: ShortcutName, run: () => void) {
  const now = useRef(run);
  useEffect(() => {
    now.current = run;
  });
  useEffect(() => {
    const pressed = (event: KeyboardEvent) => {
      if (keysOf(event) !== keysFor(name) || isTyping(event) || inDialog()) return;
      event.preventDefault();
      now.current();
    };
    window.addEventListener("keydown", pressed);
    return () => {
      window.removeEventListener("keydown", pressed);
    };
  }, [name]);
}

/** Be told while a shortcut is held. */
export function useHeldShortcut(name: ShortcutName, onHeld: (held: boolean) => void) {
  useEffect(() => {
    let held = "";
    const down = (event: KeyboardEvent) => {
      if (keysOf(event) !== keysFor(name) || isTyping(event) || event.repeat || inDialog())
        return;
      held = event.key;
      onHeld(true);
    };
    const up = (event: KeyboardEvent) => {
      if (held && event.key.toLowerCase() === held.toLowerCase()) off();
    };
    const off = () => {
      held = "";
      onHeld(false);
    };
    window.addEventListener("keydown", down);
    window.addEventListener("keyup", up);
    window.addEventListener("blur", off);
    return () => {
      window.removeEventListener("keydown", down);
      window.removeEventListener("keyup", up);
      window.removeEventListener("blur", off);
    };
  }, [name, onHeld]);
}
