import { useMutation, useQueryClient } from "@tanstack/react-query";
import { Dialog } from "radix-ui";
import { useState } from "react";
import { useNavigate } from "react-router";

import { api, data, type Part } from "../api/client";
import { useMachines, useMaterials, useSuitingRecipes } from "../api/hooks";
import { Sheet } from "../frame/Sheet";
import { nozzlesOf, spoolsOf } from "../library/choices";
import { NotDone } from "../library/NotDone";

/** One recipe for several parts at once. */
export function SeveralPlans({
  parts,
  ticked,
  onClose,
}: {
  parts: Part[];
  /** They were ticked before. */
  ticked: boolean;
  onClose: () => void;
}) {
  const machines = useMachines().data ?? [];
  const materials = useMaterials().data ?? [];
  const client = useQueryClient();
  const navigate = useNavigate();
  const [chosen, setChosen] = useState<readonly number[]>(() =>
    ticked ? parts.map((part) => part.id) : [],
  );
  const [nozzle, setNozzle] = useState<number | null>(null);
  const [spool, setSpool] = useState<number | null>(null);
  const [recipe, setRecipe] = useState<number | null>(null);
  const nozzles = nozzlesOf(machines);
  const spools = spoolsOf(materials);
  const onNozzle = nozzles.find((entry) => entry.id === nozzle) ?? nozzles[0];
  const fromSpool = spools.find((entry) => entry.id === spool) ?? spools[0];
  const recipes = useSuitingRecipes(onNozzle?.id, fromSpool?.material).data ?? [];
  const taken = recipes.find((entry) => entry.id === recipe) ?? recipes[0];
  const make = useMutation({
    mutationFn: () => {
      if (!onNozzle || !fromSpool || !taken)
        throw new Error("A machine, a spool and a recipe that suits them are needed.");
      return data(
        api.POST("/api/recipes/{id}/apply", {
          params: { path: { id: taken.id } },
          body: {
            parts: [...chosen],
            nozzle: onNozzle.id,
            material: fromSpool.material,
            spool: fromSpool.id,
          },
        }),
      );
    },
    onSuccess: async (done) => {
      await Promise.all(
        ["parts", "plans"].map((key) => client.invalidateQueries({ queryKey: [key] })),
      );
      if (done.refused.length === 0) void navigate("/plans");
    },
  });
  return (
    <Sheet title="One recipe for several parts" onClose={onClose} wide>
      <div className="mt-2 grid grid-cols-3 gap-3">
        <label className="flex flex-col gap-1">
          on
          <select
            className="field min-h-9"
            value={onNozzle?.id ?? ""}
            onChange={(event) => setNozzle(Number(event.target.value))}
          >
            {nozzles.map((entry) => (
              <option key={entry.id} value={entry.id}>
                {entry.name}
              </option>
            ))}
          </select>
        </label>
        <label className="flex flex-col gap-1">
          from spool
          <select
            className="field min-h-9"
            value={fromSpool?.id ?? ""}
            onChange={(event) => setSpool(Number(event.target.value))}
          >
            {spools.map((entry) => (
              <option key={entry.id} value={entry.id}>
                {entry.name}
              </option>
            ))}
          </select>
        </label>
        <label className="flex flex-col gap-1">
          recipe
          <select
            className="field min-h-9"
            value={taken?.id ?? ""}
            onChange={(event) => setRecipe(Number(event.target.value))}
          >
            {recipes.map((entry) => (
              <option key={entry.id} value={entry.id}>
                {entry.name}
              </option>
            ))}
          </select>
        </label>
      </div>
      {recipes.length === 0 && (
        <p className="mt-2 text-ink-2">
          No recipe suits this nozzle and material yet; a plan can be kept as one in its
          settings.
        </p>
      )}
      {taken?.note && <p className="mt-2 text-ink-2">{taken.note}</p>}
      <fieldset className="mt-3 grid grid-cols-3 gap-x-3 gap-y-1">
        <legend className="mb-1 font-semibold">Parts</legend>
        {parts.map((part) => (
          <label key={part.id} className="flex items-center gap-1.5">
            <input
              type="checkbox"
              className="accent-ink"
              checked={chosen.includes(part.id)}
              onChange={(event) =>
                setChosen(
                  event.target.checked
                    ? [...chosen, part.id]
                    : chosen.filter((key) => key !== part.id),
                )
              }
            />
            {part.name}
          </label>
        ))}
      </fieldset>
      {make.error && (
        <p role="alert" className="mt-2 text-stop">
          {make.error.message}
        </p>
      )}
      {make.data && (
        <NotDone done={`${make.data.plans.length} planned.`} refused={make.data.refused} />
      )}
      <div className="mt-4 flex justify-end gap-2">
        <Dialog.Close className="quiet min-h-8">Not now</Dialog.Close>
        <button
          className="action"
          disabled={make.isPending || chosen.length === 0 || !taken}
          onClick={() => make.mutate()}
        >
          Plan {chosen.length} {chosen.length === 1 ? "part" : "parts"}
        </button>
      </div>
    </Sheet>
  );
}
