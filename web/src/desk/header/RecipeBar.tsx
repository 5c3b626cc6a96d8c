import { clsx } from "clsx";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, data, type Plan, type Recipe, type Setting } from "../../api/client";
import { useSuitingRecipes } from "../../api/hooks";
import { Sheet } from "../../frame/Sheet";
import { differences, inWords, ofThePart } from "../state/recipes";
import type { Values } from "../state/choice";
import type { Desk } from "../state/useDesk";

/**
 * The recipe a plan started from; another one taken, what differs between them in figures, and this
 * plan kept as one.
 */
export function RecipeBar({
  plan,
  desk,
  settings,
  recipe,
}: {
  plan: Plan;
  desk: Desk;
  settings: Setting[];
  recipe: Recipe | null;
}) {
  const fitting = useSuitingRecipes(desk.choice.nozzle, desk.choice.material).data ?? [];
  const [sheet, setSheet] = useState<"compare" | "save" | null>(null);
  return (
    <p className="flex items-center gap-1.5 px-2 py-0.5 text-[13px] whitespace-nowrap">
      {recipe ? (
        <>
          from <b className="max-w-32 truncate">{recipe.name}</b>
        </>
      ) : (
        "from the plain defaults"
      )}
      <button className="quiet" onClick={() => setSheet("compare")} disabled={!fitting.length}>
        recipes …
      </button>
      <button className="quiet" onClick={() => setSheet("save")}>
        keep as a recipe …
      </button>
      {sheet === "compare" && (
        <Compare
          plan={plan}
          desk={desk}
          recipes={fitting}
          settings={settings}
          onClose={() => setSheet(null)}
        />
      )}
      {sheet === "save" && <Save plan={plan} onClose={() => setSheet(null)} />}
    </p>
  );
}

const OF_THE_PLAN = "this plan";

function Compare({
  plan,
  desk,
  recipes,
  settings,
  onClose,
}: {
  plan: Plan;
  desk: Desk;
  recipes: Recipe[];
  settings: Setting[];
  onClose: () => void;
}) {
  const client = useQueryClient();
  const columns = [
    { name: OF_THE_PLAN, settings: desk.choice.settings },
    ...recipes.map((entry) => ({ name: entry.name, settings: entry.settings })),
  ];
  const rows = differences(
    columns,
    settings.filter(
      (entry) => entry.type !== "list" && entry.group !== "place" && entry.group !== "mesh",
    ),
  );
  const take = useMutation({
    // which recipe it is is kept first; the settings then change as by hand, and can be undone
    mutationFn: (recipe: Recipe) =>
      data(
        api.PATCH("/api/plans/{id}", {
          params: { path: { id: plan.id } },
          body: { recipe: recipe.id },
        }),
      ),
    onSuccess: (changed, recipe) => {
      client.setQueryData(["plan", plan.id], changed);
      const places = ofThePart(desk.choice.settings, settings);
      desk.change({
        ...desk.choice,
        settings: { ...places, ...merged(places, recipe.settings) },
      });
      onClose();
    },
  });
  return (
    <Sheet title="Recipes that suit this nozzle and material" onClose={onClose} wide>
      <div className="mt-2 max-h-[60vh] overflow-auto">
        <table className="narrow w-full text-left text-[13px]">
          <thead className="sticky top-0 bg-sheet">
            <tr>
              <th className="font-normal text-ink-3">what differs</th>
              {columns.map((column) => (
                <th key={column.name} className="px-2">
                  {column.name}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.map(({ setting, values }) => (
              <tr key={setting.name} className="border-t border-hairline">
                <td className="pr-2">
                  {setting.group_title}: {setting.label}
                </td>
                {values.map((value, k) => (
                  <td
                    key={k}
                    className={clsx(
                      "px-2 whitespace-nowrap",
                      JSON.stringify(value) !== JSON.stringify(setting.default)
                        ? "font-semibold"
                        : "text-ink-2",
                    )}
                  >
                    {inWords(value, setting.unit)}
                  </td>
                ))}
              </tr>
            ))}
            <tr className="border-t border-edge">
              <td className="text-ink-2">
                places of this part – bands, regions, pins, marks – stay
              </td>
              <td className="px-2" />
              {recipes.map((recipe) => (
                <td key={recipe.id} className="px-2 py-1">
                  {plan.recipe === recipe.id ? (
                    <span className="text-ink-2">began with it</span>
                  ) : null}{" "}
                  <button className="quiet" onClick={() => take.mutate(recipe)}>
                    take
                  </button>
                  {recipe.note && (
                    <span className="block text-[12px] text-ink-3">{recipe.note}</span>
                  )}
                </td>
              ))}
            </tr>
          </tbody>
        </table>
      </div>
      {take.error && (
        <p role="alert" className="mt-2 text-stop">
          {take.error.message}
        </p>
      )}
    </Sheet>
  );
}

function merged(places: Values, recipe: Values): Values {
  return Object.fromEntries(
    Object.entries(recipe).map(([group, values]) => [group, { ...values, ...places[group] }]),
  );
}

function Save({ plan, onClose }: { plan: Plan; onClose: () => void }) {
  const client = useQueryClient();
  const [name, setName] = useState("");
  const [note, setNote] = useState("");
  const [machine, setMachine] = useState(false);
  const [material, setMaterial] = useState(false);
  const spec = plan.latest.spec as Record<string, Record<string, unknown>>;
  const save = useMutation({
    mutationFn: () =>
      data(
        api.POST("/api/plans/{id}/recipe", {
          params: { path: { id: plan.id } },
          body: { name, note, this_machine: machine, this_material: material },
        }),
      ),
    onSuccess: () => {
      void client.invalidateQueries({ queryKey: ["recipes"] });
      void client.invalidateQueries({ queryKey: ["plan", plan.id] });
      onClose();
    },
  });
  return (
    <Sheet title="Keep these settings as a recipe" onClose={onClose}>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          save.mutate();
        }}
      >
        <label className="mt-3 flex flex-col gap-1">
          Name
          <input
            className="field min-h-8"
            autoFocus
            maxLength={80}
            value={name}
            onChange={(event) => setName(event.target.value)}
          />
        </label>
        <label className="mt-3 flex flex-col gap-1">
          What it is for
          <input
            className="field min-h-8"
            maxLength={300}
            value={note}
            onChange={(event) => setNote(event.target.value)}
          />
        </label>
        <fieldset className="mt-3 flex flex-col gap-1">
          <legend>Holds for {String(spec.machine?.nozzle)} mm nozzles, and</legend>
          <label className="flex items-center gap-1.5">
            <input
              type="checkbox"
              className="accent-ink"
              checked={machine}
              onChange={(event) => setMachine(event.target.checked)}
            />
            only on {String(spec.machine?.name)}
          </label>
          <label className="flex items-center gap-1.5">
            <input
              type="checkbox"
              className="accent-ink"
              checked={material}
              onChange={(event) => setMaterial(event.target.checked)}
            />
            only in {String(spec.material?.name)}
          </label>
        </fieldset>
        <p className="mt-2 text-[13px] text-ink-2">
          Bands, pins, marks and how the part stands are this part's own and stay out of it.
        </p>
        {save.error && (
          <p role="alert" className="mt-2 text-stop">
            {save.error.message}
          </p>
        )}
        <div className="mt-4 flex justify-end">
          <button className="action" disabled={!name.trim() || save.isPending}>
            Keep it
          </button>
        </div>
      </form>
    </Sheet>
  );
}
