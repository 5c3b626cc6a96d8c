import { clsx } from "clsx";
import { useMemo, useState } from "react";

import type { Recipe, Setting } from "../../api/client";
import { useRecipes } from "../../api/hooks";
import { RecipeBar } from "../header/RecipeBar";
import { valueOf } from "../state/recipes";
import { SettingRow } from "./SettingRow";
import { type Values, withValue } from "../state/choice";
import { useShortList } from "../state/useShortList";
import { useRoom } from "../state/room";

const NOT_HERE = new Set(["machine", "material", "place", "mesh"]);
const AT_HAND = "at hand";
const DIFFERS = "what differs";

/**
 * Settings over the stage, by the question they answer; lanes and figures stay in view because they
 * are the answer.
 */
export function SettingsDrawer({ onClose }: { onClose: () => void }) {
  const { plan, desk, settings } = useRoom();
  const { spec } = desk.now;
  const shownHere = useMemo(
    () => settings.filter((s) => !NOT_HERE.has(s.group) && s.type !== "list"),
    [settings],
  );
  const groups = useMemo(
    () => [...new Map(shownHere.map((s) => [s.group, s.group_title]))],
    [shownHere],
  );
  const [short, onShort] = useShortList();
  const [group, setGroup] = useState(short.length ? AT_HAND : "surface");
  const [words, setWords] = useState("");
  const recipe = useRecipes().data?.find((entry) => entry.id === plan.recipe) ?? null;
  const wanted = words.trim().toLowerCase();
  const own = desk.choice.settings;
  const differs = (s: Setting) => !same(valueOf(own, s), startOf(recipe, s));
  const shown = shownHere.filter((s) =>
    wanted
      ? `${s.label} ${s.help} ${s.name}`.toLowerCase().includes(wanted)
      : group === AT_HAND
        ? short.includes(s.name)
        : group === DIFFERS
          ? differs(s)
          : s.group === group,
  );
  const pick = (key: string) => {
    setGroup(key);
    setWords("");
  };
  return (
    <aside
      aria-label="Settings"
      className={clsx(
        "absolute inset-y-0 left-0 z-10 flex w-[min(580px,100%)] flex-col",
        "border-r border-edge bg-sheet",
      )}
      onKeyDown={(event) =>
        event.key === "Escape" && event.target instanceof HTMLButtonElement && onClose()
      }
    >
      <RecipeBar plan={plan} desk={desk} settings={settings} recipe={recipe} />
      <div className="flex flex-wrap items-center gap-1 border-b border-hairline p-2">
        {groups.map(([key, title]) => {
          const many = shownHere.filter((s) => s.group === key && differs(s)).length;
          return (
            <button
              key={key}
              className="quiet"
              aria-pressed={!wanted && key === group}
              onClick={() => pick(key)}
            >
              {title}
              {many > 0 && <span className="narrow text-[12px] opacity-75"> ◆{many}</span>}
            </button>
          );
        })}
        <button
          className="quiet"
          aria-pressed={!wanted && group === DIFFERS}
          onClick={() => pick(DIFFERS)}
        >
          {recipe ? "differs from the recipe" : "differs from the defaults"}
        </button>
        <button
          className="quiet"
          aria-pressed={!wanted && group === AT_HAND}
          onClick={() => pick(AT_HAND)}
        >
          at hand
        </button>
        <input
          className="field ml-auto w-20"
          type="search"
          placeholder="find …"
          aria-label="Find a setting"
          value={words}
          onChange={(event) => setWords(event.target.value)}
        />
        <button className="quiet" onClick={onClose}>
          Close
        </button>
      </div>
      <div className="min-h-0 flex-1 overflow-auto px-3">
        {shown.length === 0 && (
          <p className="py-4 text-ink-2">
            {wanted
              ? `No setting has “${words}” in its name or help.`
              : group === AT_HAND
                ? "Nothing here yet: ☆ beside a setting keeps it at hand."
                : `Nothing differs from ${recipe ? `'${recipe.name}'` : "the defaults"}.`}
          </p>
        )}
        {shown.map((setting) => (
          <SettingRow
            key={setting.name}
            setting={setting}
            value={own[setting.group]?.[setting.key]}
            start={startOf(recipe, setting)}
            recipe={recipe?.name ?? null}
            inherited={inheritedBy(setting, spec)}
            effect={
              plan.effects.find((effect) =>
                effect.changes.some((change) => change.name === setting.name),
              ) ?? null
            }
            atHand={short.includes(setting.name)}
            onAtHand={() => onShort(setting.name)}
            onValue={(value) =>
              desk.change({
                ...desk.choice,
                settings: withValue(own, setting.group, setting.key, value, setting.default),
              })
            }
          />
        ))}
      </div>
    </aside>
  );
}

const same = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b);

/** What a setting starts from: the recipe's value, else the default. */
const startOf = (recipe: Recipe | null, setting: Setting): unknown =>
  valueOf(recipe?.settings ?? {}, setting);

/**
 * What an open value is taken from: a setting, the machine or the material, or another value of the
 * same group.
 */
function inheritedBy(setting: Setting, spec: Values): unknown {
  if (!setting.source) return setting.default;
  const [group = "", key] = setting.source.split(".");
  return key
    ? spec[group]?.[key]
    : (spec[group]?.[setting.key] ??
        spec.material?.[setting.key] ??
        spec.air?.[group] ??
        spec.machine?.[group]);
}
