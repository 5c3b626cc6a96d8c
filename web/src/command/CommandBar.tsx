import { clsx } from "clsx";
import { Dialog } from "radix-ui";
import { type ReactNode, useEffect, useMemo, useRef, useState } from "react";
import { useNavigate } from "react-router";

import { api, data } from "../api/client";
import { PLACES } from "../frame/places";
import { useShortcut } from "../frame/shortcuts";
import { type Command, ranked, type Source, SourcesContext } from "./commands";

/** Lines that are shown; milliseconds before libraries and effects are asked. */
const SHOWN = 9;
const PAUSE = 120;

/** One bar for everything that can be typed: screens, parts, plans, and what the screen adds. */
export function CommandBar({ children }: { children: ReactNode }) {
  const [open, setOpen] = useState(false);
  const sources = useRef(new Set<Source>());
  const registry = useMemo(
    () => ({
      add: (source: Source) => {
        sources.current.add(source);
        return () => {
          sources.current.delete(source);
        };
      },
    }),
    [],
  );
  useShortcut("bar", () => setOpen(true));
  return (
    <SourcesContext value={registry}>
      {children}
      {open && (
        <Bar
          here={(typed) => [...sources.current].flatMap((source) => source(typed))}
          onClose={() => setOpen(false)}
        />
      )}
    </SourcesContext>
  );
}

function Bar({ here, onClose }: { here: Source; onClose: () => void }) {
  const navigate = useNavigate();
  const [typed, setTyped] = useState("");
  const [at, setAt] = useState(0);
  const shelf = useShelf(typed);
  const all: Command[] = [
    ...here(typed),
    ...PLACES.map(([to, words]) => ({
      key: to,
      words,
      kind: "screen",
      run: () => void navigate(to),
    })),
    ...shelf.map(({ to, words, also, kind }) => ({
      key: to,
      words,
      also,
      kind,
      run: () => void navigate(to),
    })),
  ];
  const shown = ranked(typed, all, SHOWN);
  const chosen = shown[Math.min(at, shown.length - 1)];
  const effect = useEffectWords(chosen);
  const run = (command: Command | undefined) => {
    if (!command?.run) return;
    onClose();
    command.run();
  };
  return (
    <Dialog.Root open onOpenChange={(open) => !open && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-mast/40" />
        <Dialog.Content
          aria-describedby={undefined}
          className={clsx(
            "fixed top-24 left-1/2 z-50 w-[min(620px,94vw)] -translate-x-1/2 border border-edge",
            "bg-sheet p-2",
          )}
        >
          <Dialog.Title className="sr-only">Say what to do</Dialog.Title>
          <input
            className="field min-h-10 w-full px-2 text-base"
            role="combobox"
            aria-label="What to do"
            aria-expanded={shown.length > 0}
            aria-controls="commands"
            aria-activedescendant={chosen && `command-${shown.indexOf(chosen)}`}
            placeholder="infill 12 · 31.4 · layer 120 · pace · the name of a part or plan"
            value={typed}
            onChange={(event) => {
              setTyped(event.target.value);
              setAt(0);
            }}
            onKeyDown={(event) => {
              const by = { ArrowDown: 1, ArrowUp: -1 }[event.key];
              if (by) {
                event.preventDefault();
                setAt((Math.min(at, shown.length - 1) + by + shown.length) % shown.length);
              }
              if (event.key === "Enter") run(chosen);
            }}
          />
          <ul id="commands" role="listbox" aria-label="What can be done" className="mt-1">
            {shown.map((command, n) => (
              <li
                key={command.key}
                id={`command-${n}`}
                role="option"
                aria-selected={command === chosen}
                data-command={command.key}
                className={clsx(
                  "flex cursor-pointer items-baseline gap-3 px-2 py-1.5",
                  command === chosen && "bg-paper font-semibold",
                  !command.run && "text-stop",
                )}
                onPointerMove={() => setAt(n)}
                onClick={() => run(command)}
              >
                <span className="min-w-0 flex-1 truncate">{command.words}</span>
                {command === chosen && effect && (
                  <span role="status" className="narrow whitespace-nowrap" data-effect>
                    {effect}
                  </span>
                )}
                <span className="narrow text-[12px] font-normal text-ink-2">
                  {command.kind}
                </span>
              </li>
            ))}
          </ul>
          {shown.length === 0 && (
            <p className="p-2 text-ink-2">
              Nothing here is called so. On the desk of a plan a setting takes its value behind
              its name: “walls 4”, “supports on”.
            </p>
          )}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  );
}

interface Found {
  to: string;
  words: string;
  also: string;
  kind: string;
}

/** Parts and plans by what was typed, asked once the hand rests. */
function useShelf(typed: string): Found[] {
  const [found, setFound] = useState<Found[]>([]);
  useEffect(() => {
    // what kind of thing is meant is mostly no word of its name
    const named = typed.replace(/\b(?:plan|part)s?\b/giu, " ").trim();
    const search = named.length < 2 ? typed.trim() : named;
    if (search.length < 2) return;
    const leave = new AbortController();
    const timer = window.setTimeout(() => {
      const asked = { params: { query: { search, limit: 4 } }, signal: leave.signal };
      void Promise.all([
        data(api.GET("/api/plans", asked)),
        data(api.GET("/api/parts", asked)),
      ]).then(
        ([plans, parts]) =>
          setFound([
            ...plans.map((plan) => ({
              to: `/plans/${plan.id}`,
              words: `${plan.part_name}, plan ${plan.number}${plan.name && `, ${plan.name}`}`,
              also: `${plan.machine} ${plan.material} ${plan.verdict}`,
              kind: "plan",
            })),
            ...parts.map((part) => ({
              to: `/parts?search=${encodeURIComponent(part.name)}`,
              words: part.name,
              also: `part ${part.filename} ${(part.labels ?? []).join(" ")}`,
              kind: "part",
            })),
          ]),
        () => setFound([]),
      );
    }, PAUSE);
    return () => {
      window.clearTimeout(timer);
      leave.abort();
    };
  }, [typed]);
  return typed.trim().length < 2 ? [] : found;
}

/** What the chosen command would come to, asked once the hand rests on it. */
function useEffectWords(command: Command | undefined): string {
  const [said, setSaid] = useState<{ key: string; words: string } | null>(null);
  const key = command?.key ?? "";
  const asked = useRef(command);
  useEffect(() => {
    asked.current = command;
  });
  useEffect(() => {
    const leave = new AbortController();
    const timer = window.setTimeout(() => {
      asked.current?.effect?.(leave.signal).then(
        (words) => setSaid({ key, words }),
        (error: unknown) => {
          if (!leave.signal.aborted && error instanceof Error)
            setSaid({ key, words: error.message });
        },
      );
    }, PAUSE);
    return () => {
      window.clearTimeout(timer);
      leave.abort();
    };
  }, [key]);
  return said?.key === key ? said.words : "";
}
