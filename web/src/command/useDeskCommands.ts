/** What can be typed on the desk: instruments, views, settings with a value, heights, findings. */
import { useCallback, useEffect, useRef } from "react";

import { api, data, type Setting } from "../api/client";
import { signedMass, signedSpan } from "../format";
import { type Choice, withValue } from "../desk/state/choice";
import { instruments } from "../desk/panels/Instruments";
import type { Room } from "../desk/state/room";
import { VIEWS } from "../desk/state/useSight";
import { layerAtHeight } from "../desk/state/useCursor";
import { type Command, type Source, useCommands, withNumber } from "./commands";

/** Values of a setting that are words. */
const YES = ["on", "yes", "true"];
const NO = ["off", "no", "false"];

export function useDeskCommands(room: Room, onTab: (tab: string) => void) {
  const now = useRef({ room, onTab });
  useEffect(() => {
    now.current = { room, onTab };
  });
  const source = useCallback<Source>((typed) => {
    const { room, onTab } = now.current;
    return [
      ...heights(room, typed),
      ...instruments(room).map(([key, words]) => ({
        key: `open ${key}`,
        words,
        kind: "instrument",
        run: () => onTab(key),
      })),
      ...VIEWS.map((view) => ({
        key: `look ${view}`,
        words: `stage: ${view}`,
        kind: "view",
        run: () => room.sight.look(view),
      })),
      ...acts(room),
      ...room.settings.flatMap((setting) => changes(room, setting, typed)),
      ...room.findings.map((finding, n) => ({
        key: `finding ${n} ${finding.code}`,
        words: finding.message,
        also: `finding ${finding.severity}`,
        kind: "finding",
        run: () => {
          onTab("findings");
          const [place] = finding.places;
          if (place) room.sight.toFinding(finding, place);
        },
      })),
    ];
  }, []);
  useCommands(source);
}

/** Heights in mm and layers by number. */
function heights({ cursor, desk, sight }: Room, typed: string): Command[] {
  const tops = desk.figures?.layers.tops_mm ?? [];
  const layer = /^\s*layer\s+(\d+)\s*$/i.exec(typed);
  if (layer) {
    const n = Number(layer[1]);
    if (n < 1 || n > tops.length)
      return [
        {
          key: "layer",
          words: `layer ${n}: there are ${tops.length}`,
          kind: "not possible",
          run: null,
        },
      ];
    return [
      {
        key: "layer",
        words: `layer ${n} of ${tops.length}, ${(tops[n - 1] ?? 0).toFixed(2)} mm`,
        kind: "height",
        run: () => cursor.go(n - 1),
      },
    ];
  }
  const height = /^\s*(\d+(?:[.,]\d+)?)\s*(?:mm)?\s*$/.exec(typed);
  if (!height) return [];
  const z = Number((height[1] ?? "").replace(",", "."));
  const top = tops.at(-1) ?? 0;
  if (z > top)
    return [
      {
        key: "height",
        words: `height ${typed.trim()}: the part ends at ${top.toFixed(2)} mm`,
        kind: "not possible",
        run: null,
      },
    ];
  return [
    {
      key: "height",
      words: `height ${typed.trim()} of ${top.toFixed(2)} mm, layer ${layerAtHeight(tops, z) + 1}`,
      kind: "height",
      run: () => sight.toHeight(z),
    },
  ];
}

function acts({ desk }: Room): Command[] {
  const out: Command[] = [];
  if (desk.canUndo)
    out.push({ key: "undo", words: "Undo the last change", kind: "action", run: desk.undo });
  if (desk.canRedo)
    out.push({ key: "redo", words: "Redo what was undone", kind: "action", run: desk.redo });
  if (desk.computing)
    out.push({
      key: "stop",
      words: "Stop computing",
      kind: "action",
      run: () => void desk.cancel(),
    });
  return out;
}

/** Changes of one setting that were typed: its name and a value at the end. */
function changes(room: Room, setting: Setting, typed: string): Command[] {
  const { desk } = room;
  const [group = "", key = ""] = setting.name.split(".");
  const make = (value: unknown, said: string): Command => {
    const settings = withValue(desk.choice.settings, group, key, value, setting.default);
    const choice = { ...desk.choice, settings };
    return {
      key: `${setting.name} ${said}`,
      words: `${setting.label}: ${said}${setting.unit && ` ${setting.unit}`}`,
      also: `${setting.name.replace(/[._]/g, " ")} ${typed}`,
      kind: setting.group,
      run: () => desk.change(choice),
      effect: (signal) => effectOf(room, choice, signal),
    };
  };
  if (setting.type === "number" || setting.type === "integer") {
    const [words, value] = withNumber(typed);
    if (value === null || !words.trim()) return [];
    if (!named(words, setting)) return [];
    const { min, max, unit, label } = setting;
    if (value < (min ?? -Infinity) || value > (max ?? Infinity))
      return [
        {
          key: setting.name,
          words: `${label}: ${value} is not allowed, ${min} to ${max}${unit && ` ${unit}`} is`,
          also: `${setting.name.replace(/[._]/g, " ")} ${typed}`,
          kind: "not possible",
          run: null,
        },
      ];
    return [make(value, String(value))];
  }
  const last = typed.trim().split(/\s+/).at(-1)?.toLowerCase() ?? "";
  const words = typed.trim().slice(0, -last.length);
  if (!last || !words.trim() || !named(words, setting)) return [];
  if (setting.type === "bool") {
    const wanted = YES.includes(last) ? true : NO.includes(last) ? false : null;
    return wanted === null ? [] : [make(wanted, wanted ? "on" : "off")];
  }
  if (setting.type !== "choice") return [];
  return setting.choices
    .filter((choice) => choice.startsWith(last))
    .map((choice) => make(choice, choice));
}

/** Whether typed words all lie in the name of a setting. */
function named(typed: string, { label, name }: Setting): boolean {
  const there = `${label} ${name}`.toLowerCase();
  return typed
    .toLowerCase()
    .split(/\s+/)
    .every((word) => there.includes(word));
}

/** What a change comes to, against the figures that are shown. */
async function effectOf(
  { plan, desk }: Room,
  choice: Choice,
  signal: AbortSignal,
): Promise<string> {
  const before = desk.figures;
  if (!before) return "";
  const { settings, nozzle, material, spool } = choice;
  const after = await data(
    api.POST("/api/plans/{id}/quick", {
      params: { path: { id: plan.id } },
      body: { settings, nozzle, material, spool },
      signal,
    }),
  );
  return (
    `≈ ${signedSpan(after.time_s.total - before.time)}, ` +
    signedMass(after.filament.mass_g - before.mass)
  );
}
