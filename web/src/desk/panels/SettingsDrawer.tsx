import { clsx } from "clsx";
import { useMemo, useState } from "react";

import type { Recipe, Setting } from "../../api/client";
import { useRecipes } from "../../api/hooks";
import { RecipeBar } from "../header/RecipeBar";
import { valueOf } from "../state/recipes";
import { same, SettingHelp, SettingRow } from "./SettingRow";
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
  const [asked, setAsked] = useState<string | null>(null);
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
  const lineOf = (setting: Setting) => ({
    setting,
    value: own[setting.group]?.[setting.key],
    start: startOf(recipe, setting),
    recipe: recipe?.name ?? null,
    inherited: inheritedBy(setting, spec),
    effect:
      plan.effects.find((effect) =>
        effect.changes.some((change) => change.name === setting.name),
      ) ?? null,
  });
  const told = shown.find((s) => s.name === asked) ?? null;
  const kinds: readonly (readonly [string, string, number])[] = [
    ...groups.map(
      ([key, title]) =>
        [key, title, shownHere.filter((s) => s.group === key && differs(s)).length] as const,
    ),
    [DIFFERS, recipe ? "differs from the recipe" : "differs from the defaults", 0],
    [AT_HAND, "at hand", 0],
  ];
  return (
    <aside
      aria-label="Settings"
      className={clsx(
        // beside the stage where there is room for both, else over it
        "absolute inset-y-0 left-0 z-10 flex w-[min(440px,100%)] flex-col xl:static",
        "shrink-0 border-r border-edge bg-sheet",
      )}
      onKeyDown={(event) =>
        event.key === "Escape" && event.target instanceof HTMLButtonElement && onClose()
      }
    >
      <div className="flex items-center border-b border-hairline pr-2">
        <RecipeBar plan={plan} desk={desk} settings={settings} recipe={recipe} />
        <button className="quiet ml-auto" onClick={onClose}>
          Close
        </button>
      </div>
      <div className="flex min-h-0 flex-1">
        <div
          role="group"
          aria-label="Which settings"
          className="flex w-[92px] shrink-0 flex-col overflow-auto border-r border-hairline"
        >
          <input
            className="field m-1"
            type="search"
            placeholder="find …"
            aria-label="Find a setting"
            value={words}
            onChange={(event) => setWords(event.target.value)}
          />
          {kinds.map(([key, title, many]) => (
            <button
              key={key}
              className={clsx(
                "min-h-[24px] border-0 border-l-[3px] border-transparent bg-transparent px-2 py-1",
                "text-left text-[13px] leading-tight text-ink-2",
                "aria-pressed:border-north aria-pressed:bg-paper",
                "aria-pressed:font-semibold aria-pressed:text-ink",
              )}
              aria-pressed={!wanted && key === group}
              onClick={() => pick(key)}
            >
              {title}
              {many > 0 && <span className="narrow text-[12px] text-fjord"> ◆{many}</span>}
            </button>
          ))}
        </div>
        <div className="min-h-0 flex-1 overflow-auto pl-2">
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
              {...lineOf(setting)}
              atHand={short.includes(setting.name)}
              onAtHand={() => onShort(setting.name)}
              onAsked={() => setAsked(setting.name)}
              onValue={(value) =>
                desk.change({
                  ...desk.choice,
                  settings: withValue(own, setting.group, setting.key, value, setting.default),
                })
              }
            />
          ))}
        </div>
      </div>
      <p
        role="note"
        aria-label="What the setting does"
        className={clsx(
          "h-[52px] shrink-0 overflow-auto border-t border-hairline px-2 py-0.5",
          "text-[12px] leading-4",
        )}
      >
        {told ? (
          <SettingHelp {...lineOf(told)} />
        ) : (
          <span className="text-ink-3">
            Point at a setting or step into it: what it does, its bounds and where its value
            comes from stand here.
          </span>
        )}
      </p>
    </aside>
  );
}

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
