import { useCallback, useState } from "react";

import { type Source, useCommands } from "../command/commands";
import { Sheet } from "./Sheet";
import {
  FIXED,
  keysOf,
  SHORTCUTS,
  type ShortcutName,
  useShortcut,
  useShortcutKeys,
} from "./shortcuts";
import { chooseTheme, chosenTheme, THEMES } from "./theme";

/** All keys in one sheet; those that work anywhere can be given others. */
export function ShortcutSheet() {
  const [open, setOpen] = useState(false);
  const show = () => {
    setOpen(true);
  };
  useShortcut("sheet", show);
  const source = useCallback<Source>(
    () => [
      {
        key: "shortcuts",
        words: "Shortcuts",
        also: "keys keyboard",
        kind: "sheet",
        run: show,
      },
      ...THEMES.filter((theme) => theme !== chosenTheme()).map((theme) => ({
        key: `theme ${theme}`,
        words: `Colours: ${theme}`,
        also: "theme dark light night",
        kind: "this computer",
        run: () => {
          chooseTheme(theme);
        },
      })),
    ],
    [],
  );
  useCommands(source);
  if (!open) return null;
  return (
    <Sheet title="Shortcuts" onClose={() => setOpen(false)} wide>
      <Changeable />
      <h3 className="mt-4 font-semibold">In one place only</h3>
      <dl className="mt-1 grid grid-cols-[auto_auto_1fr] gap-x-4 text-[13px]">
        {FIXED.map(([where, keys, words]) => (
          <div key={where + keys} className="col-span-3 grid grid-cols-subgrid">
            <dt className="text-ink-2">{where}</dt>
            <dd className="narrow font-semibold">{keys}</dd>
            <dd>{words}</dd>
          </div>
        ))}
      </dl>
    </Sheet>
  );
}

function Changeable() {
  const { all, change, reset, changed } = useShortcutKeys();
  const [asked, setAsked] = useState<ShortcutName | null>(null);
  return (
    <>
      <p className="text-[13px] text-ink-2">
        They work wherever nothing is being typed. Press one to give it other keys: what had
        them before gets the old ones.
      </p>
      <ul className="mt-2 grid gap-x-6 sm:grid-cols-2">
        {SHORTCUTS.map(({ name, words }) => (
          <li key={name} className="flex items-center gap-2 border-b border-hairline py-1">
            <span className="flex-1 text-[13px]">{words}</span>
            <button
              className="quiet narrow min-w-24"
              aria-label={`${all[name]}: ${words}`}
              aria-pressed={asked === name}
              onClick={() => setAsked(asked === name ? null : name)}
              onBlur={() => setAsked(null)}
              onKeyDown={(event) => {
                if (asked !== name || event.key === "Tab") return;
                event.preventDefault();
                event.stopPropagation();
                const keys = event.key === "Escape" ? all[name] : keysOf(event);
                if (!keys) return;
                change(name, keys);
                setAsked(null);
              }}
            >
              {asked === name ? "press keys …" : all[name]}
            </button>
          </li>
        ))}
      </ul>
      {changed && (
        <button className="quiet mt-2" onClick={reset}>
          all as they were at first
        </button>
      )}
    </>
  );
}
