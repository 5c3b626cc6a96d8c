import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Dialog } from "radix-ui";
import { useState } from "react";

import { api, data, type PlanRow } from "../api/client";
import { useMachines, useMaterials, useRecipes } from "../api/hooks";
import { Sheet } from "../frame/Sheet";
import { nozzlesOf, spoolsOf } from "../library/choices";
import { NotDone } from "../library/NotDone";

/** Another machine, spool or recipe for several plans at once. */
export function ChangePlans({
  plans,
  onClose,
}: {
  plans: readonly PlanRow[];
  onClose: () => void;
}) {
  const machines = useMachines().data ?? [];
  const materials = useMaterials().data ?? [];
  const recipes = useRecipes().data ?? [];
  const client = useQueryClient();
  const [nozzle, setNozzle] = useState("");
  const [spool, setSpool] = useState("");
  const [recipe, setRecipe] = useState("");
  const change = useMutation({
    mutationFn: () =>
      data(
        api.POST("/api/plans/several", {
          body: {
            plans: plans.map((plan) => plan.id),
            ...(nozzle && { nozzle: Number(nozzle) }),
            ...(spool && { spool: Number(spool) }),
            ...(recipe && { recipe: Number(recipe) }),
          },
        }),
      ),
    onSuccess: async (done) => {
      await client.invalidateQueries({ queryKey: ["plans"] });
      if (done.refused.length === 0) onClose();
    },
  });
  const choices = [
    ["on", nozzle, setNozzle, nozzlesOf(machines)],
    ["from spool", spool, setSpool, spoolsOf(materials)],
    ["recipe", recipe, setRecipe, recipes],
  ] as const;
  const what = plans.length === 1 ? "1 plan" : `${plans.length} plans`;
  return (
    <Sheet title={`Change ${what}`} onClose={onClose} wide>
      <p className="mt-1 text-ink-2">
        Each becomes a new version, which its desk can undo. A recipe leaves where the part
        stands and what is marked on it.
      </p>
      <div className="mt-3 grid grid-cols-3 gap-3">
        {choices.map(([words, value, set, options]) => (
          <label key={words} className="flex flex-col gap-1">
            {words}
            <select
              className="field min-h-9"
              aria-label={words}
              value={value}
              onChange={(event) => set(event.target.value)}
            >
              <option value="">as each has it</option>
              {options.map(({ id, name }) => (
                <option key={id} value={id}>
                  {name}
                </option>
              ))}
            </select>
          </label>
        ))}
      </div>
      {change.error && (
        <p role="alert" className="mt-2 text-stop">
          {change.error.message}
        </p>
      )}
      {change.data && (
        <div className="mt-3">
          <NotDone
            done={`${change.data.plans.length} of ${plans.length} are changed.`}
            refused={change.data.refused}
          />
        </div>
      )}
      <div className="mt-4 flex justify-end gap-2">
        <Dialog.Close className="quiet min-h-8">Not now</Dialog.Close>
        <button
          className="action"
          disabled={change.isPending || !(nozzle || spool || recipe)}
          onClick={() => change.mutate()}
        >
          Change {what}
        </button>
      </div>
    </Sheet>
  );
}
