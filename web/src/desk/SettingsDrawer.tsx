import { useMemo, useState } from "react";

import type { Setting } from "../api/client";
import { SettingRow } from "./SettingRow";
import { type Desk, withValue } from "./useDesk";

const NOT_HERE = new Set(["machine", "material", "place"]);

/** Settings over the stage, by the question they answer; lanes and figures stay in view because they are the answer. */
export function SettingsDrawer({ desk, settings, spec, onClose }: {
  desk: Desk; settings: Setting[]; spec: Record<string, Record<string, unknown>>; onClose: () => void;
}) {
  const groups = useMemo(() => [...new Map(settings.filter((s) => !NOT_HERE.has(s.group)).map((s) => [s.group, s.group_title]))], [settings]);
  const [group, setGroup] = useState("surface");
  const [words, setWords] = useState("");
  const wanted = words.trim().toLowerCase();
  const shown = settings.filter((s) => !NOT_HERE.has(s.group) && s.type !== "list" && (wanted ? `${s.label} ${s.help} ${s.name}`.toLowerCase().includes(wanted) : s.group === group));
  const own = desk.choice.settings;
  return (
    <aside aria-label="Settings" className="absolute inset-y-0 left-0 z-10 flex w-[min(560px,100%)] flex-col border-r border-edge bg-sheet"
      onKeyDown={(event) => event.key === "Escape" && event.target instanceof HTMLButtonElement && onClose()}>
      <div className="flex flex-wrap items-center gap-1 border-b border-hairline p-2">
        {groups.map(([key, title]) => {
          const many = Object.keys(own[key] ?? {}).length;
          return (
            <button key={key} className="quiet" aria-pressed={!wanted && key === group} onClick={() => { setGroup(key); setWords(""); }}>
              {title}{many > 0 && <span className="narrow text-[12px] text-ink-3"> ◆{many}</span>}
            </button>
          );
        })}
        <input className="field ml-auto w-16" type="search" placeholder="find …" aria-label="Find a setting" value={words} onChange={(event) => setWords(event.target.value)} />
        <button className="quiet" onClick={onClose}>Close</button>
      </div>
      <div className="min-h-0 flex-1 overflow-auto px-3">
        {shown.length === 0 && <p className="py-4 text-ink-2">No setting has “{words}” in its name or help.</p>}
        {shown.map((setting) => (
          <SettingRow key={setting.name} setting={setting} value={own[setting.group]?.[setting.key]}
            inherited={inheritedBy(setting, spec)}
            onValue={(value) => desk.change({ ...desk.choice, settings: withValue(own, setting.group, setting.key, value, setting.default) })} />
        ))}
      </div>
    </aside>
  );
}

/** What an open value is taken from: a setting, the machine or the material, or another value of the same group. */
function inheritedBy(setting: Setting, spec: Record<string, Record<string, unknown>>): unknown {
  if (!setting.source) return setting.default;
  const [group = "", key] = setting.source.split(".");
  return key ? spec[group]?.[key] : (spec[group]?.[setting.key] ?? spec.material?.[setting.key] ?? spec.air?.[group] ?? spec.machine?.[group]);
}
