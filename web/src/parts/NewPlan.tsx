import { clsx } from "clsx";
import {
  type QueryClient,
  useMutation,
  useQueries,
  useQuery,
  useQueryClient,
} from "@tanstack/react-query";
import { Dialog } from "radix-ui";
import { useState } from "react";

import { api, data, type Part, type Plan, type Schemas, type Setting } from "../api/client";
import {
  useFits,
  useMachines,
  useMaterials,
  useSettings,
  useSuitingRecipes,
} from "../api/hooks";
import { ENDS, frontierOf } from "../desk/panels/tradeoff/frontier";
import { choiceOf } from "../desk/state/choice";
import { differences, inWords } from "../desk/state/recipes";
import { firstFigures } from "../desk/state/useDesk";
import { wantedOf } from "../desk/state/wanted";
import { grams, hours } from "../format";
import { Sheet } from "../frame/Sheet";

interface Chosen {
  material: { id: number };
  spool: { id: number };
}

/**
 * ≈ figures of the part from each start, while the maker still chooses; from the chosen one all
 * that the desk opens with.
 */
function useAhead(
  part: number,
  nozzle: number | undefined,
  chosen: Chosen | undefined,
  starts: readonly ({ id: number } | null)[],
  start: number | null,
  fromFile: boolean,
) {
  const asked = (recipe: number | null, whole: boolean) => {
    const body = {
      part,
      nozzle: nozzle ?? 0,
      material: chosen?.material.id ?? 0,
      spool: chosen?.spool.id ?? null,
      recipe,
      whole,
      from_file: whole && fromFile,
    };
    return {
      queryKey: ["ahead", body],
      queryFn: () => data(api.POST("/api/plans/ahead", { body })),
      enabled: nozzle !== undefined && chosen !== undefined,
      staleTime: 60_000,
      retry: false,
    };
  };
  const whole = useQuery(asked(start, true));
  const rows = useQueries({
    queries: starts.map((entry) => {
      const query = asked(entry?.id ?? null, false);
      // the chosen one first: it may be wanted any moment
      return { ...query, enabled: query.enabled && whole.isFetched };
    }),
  });
  return { rows, chosen: whole, whole: whole.data };
}

/** What is known of a plan already stands on its desk when it opens. */
function openWith(
  client: QueryClient,
  plan: Plan,
  settings: Setting[],
  { quick, frontier }: Schemas["Ahead"],
) {
  const choice = choiceOf(plan);
  if (quick) client.setQueryData(firstFigures(plan.id), quick);
  const { measure } = wantedOf(choice, settings);
  if (frontier)
    client.setQueryData(frontierOf(plan.id, null, choice, measure).key(ENDS), frontier);
}

function Ahead({
  figures,
}: {
  figures: ReturnType<typeof useAhead>["rows"][number] | undefined;
}) {
  const found = figures?.data;
  if (figures?.error)
    return (
      <td colSpan={3} className="px-1.5 text-look" title={figures.error.message}>
        ▲ not so
      </td>
    );
  return (
    <>
      {[
        found && hours(found.time_s),
        found && grams(found.mass_g),
        found && Math.round(found.p95_um),
      ].map((value, k) => (
        <td key={k} className="px-1.5 text-right font-semibold" data-ahead={k}>
          {value ?? "…"}
        </td>
      ))}
    </>
  );
}

/** Say what makes it: machine with nozzle, material, spool. */
export function NewPlan({
  part,
  onClose,
  onMade,
}: {
  part: Part;
  onClose: () => void;
  onMade: (id: number) => void;
}) {
  const machines = useMachines();
  const materials = useMaterials();
  const client = useQueryClient();
  const nozzles = (machines.data ?? []).flatMap((machine) =>
    machine.nozzles.map((nozzle) => ({ machine, nozzle })),
  );
  const spools = (materials.data ?? []).flatMap((material) =>
    material.spools.map((spool) => ({ material, spool })),
  );
  const [nozzle, setNozzle] = useState<number | null>(null);
  const [spool, setSpool] = useState<number | null>(null);
  const then = part.planned;
  const chosenNozzle =
    nozzles.find((entry) => entry.nozzle.id === nozzle) ??
    nozzles.find(
      (entry) => entry.machine.name === then?.machine && entry.nozzle.bore === then.bore,
    ) ??
    nozzles[0];
  const chosenSpool =
    spools.find((entry) => entry.spool.id === spool) ??
    spools.find((entry) => entry.material.name === then?.material) ??
    spools[0];
  const [recipe, setRecipe] = useState<number | null>(null);
  // a part that came with a plan starts from it
  const [fromFile, setFromFile] = useState(part.planned !== null);
  const settings = useSettings().data ?? [];
  const fitting =
    useSuitingRecipes(chosenNozzle?.nozzle.id, chosenSpool?.material.id).data ?? [];
  const fits = useFits(chosenNozzle?.nozzle.id, chosenSpool?.material.id).data ?? [];
  const chosen = fromFile ? undefined : fitting.find((entry) => entry.id === recipe);
  const columns = differences(
    [{ settings: {} }, ...fitting.map((entry) => ({ settings: entry.settings }))],
    settings.filter((entry) => entry.type !== "list"),
  ).slice(0, 6);
  const ahead = useAhead(
    part.id,
    chosenNozzle?.nozzle.id,
    chosenSpool,
    [null, ...fitting],
    chosen?.id ?? null,
    fromFile,
  );
  const make = useMutation({
    mutationFn: () => {
      if (!chosenNozzle || !chosenSpool)
        throw new Error("The workshop has no machine or no spool yet.");
      return data(
        api.POST("/api/plans", {
          body: {
            part: part.id,
            nozzle: chosenNozzle.nozzle.id,
            material: chosenSpool.material.id,
            spool: chosenSpool.spool.id,
            ...(chosen ? { recipe: chosen.id } : {}),
            from_file: fromFile,
          },
        }),
      );
    },
    onSuccess: (plan) => {
      client.setQueryData(["plan", plan.id], plan);
      if (ahead.whole) openWith(client, plan, settings, ahead.whole);
      void client.invalidateQueries({ queryKey: ["parts"] });
      onMade(plan.id);
    },
  });
  return (
    <Sheet title={`Plan ${part.name}`} onClose={onClose} wide>
      <label className="mt-3 flex flex-col gap-1">
        on
        <select
          className="field min-h-9"
          value={chosenNozzle?.nozzle.id ?? ""}
          onChange={(event) => setNozzle(Number(event.target.value))}
        >
          {nozzles.map(({ machine, nozzle }) => (
            <option key={nozzle.id} value={nozzle.id}>
              {machine.name}, {nozzle.bore} mm nozzle
            </option>
          ))}
        </select>
      </label>
      <label className="mt-3 flex flex-col gap-1">
        in
        <select
          className="field min-h-9"
          value={chosenSpool?.spool.id ?? ""}
          onChange={(event) => setSpool(Number(event.target.value))}
        >
          {spools.map(({ material, spool }) => (
            <option key={spool.id} value={spool.id}>
              {material.name} from {spool.label}, {spool.colour}, {grams(spool.usable_mass)} g
              left
            </option>
          ))}
        </select>
      </label>
      <fieldset className="mt-3">
        <legend>from</legend>
        <table className="narrow w-full text-left text-[13px]">
          <thead>
            <tr className="align-bottom text-ink-3">
              <th />
              {["time ≈ h", "filament ≈ g", "P95 ≈ µm"].map((name) => (
                <th key={name} className="px-1.5 text-right font-normal">
                  {name}
                </th>
              ))}
              {columns.map(({ setting }) => (
                <th key={setting.name} className="px-1.5 font-normal" title={setting.help}>
                  {setting.label.toLowerCase()}
                  {setting.unit && ` ${setting.unit}`}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {then && (
              <tr className="border-t border-hairline">
                <td className="py-1 pr-2">
                  <label className="flex items-center gap-1.5 font-medium">
                    <input
                      type="radio"
                      name="recipe"
                      className="accent-ink"
                      checked={fromFile}
                      onChange={() => setFromFile(true)}
                    />
                    the plan in its file
                  </label>
                </td>
                <Ahead figures={fromFile ? ahead.chosen : undefined} />
                <td colSpan={columns.length} className="px-1.5 text-ink-2">
                  {then.name}, made for {then.machine} in {then.material}
                </td>
              </tr>
            )}
            {[null, ...fitting].map((entry, k) => (
              <tr key={entry?.id ?? 0} className="border-t border-hairline">
                <td className="py-1 pr-2">
                  <label className="flex items-center gap-1.5 font-medium whitespace-nowrap">
                    <input
                      type="radio"
                      name="recipe"
                      className="accent-ink"
                      checked={!fromFile && (chosen?.id ?? null) === (entry?.id ?? null)}
                      onChange={() => {
                        setFromFile(false);
                        setRecipe(entry?.id ?? null);
                      }}
                    />
                    {entry?.name ?? "the plain defaults"}
                  </label>
                </td>
                <Ahead figures={ahead.rows[k]} />
                {columns.map(({ setting, values }) => (
                  <td
                    key={setting.name}
                    className={clsx(
                      "px-1.5",
                      k > 0 && JSON.stringify(values[k]) !== JSON.stringify(values[0])
                        ? "font-semibold"
                        : "text-ink-2",
                    )}
                  >
                    {inWords(values[k], "")}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
        {fitting.length === 0 && (
          <p className="text-[13px] text-ink-3">
            No recipe suits this nozzle and material; a plan can be kept as one.
          </p>
        )}
      </fieldset>
      {fits.map((fit) => (
        <p
          key={fit.message}
          role="alert"
          data-fit={fit.severity}
          className={`mt-3 ${fit.severity === "stop" ? "text-stop" : "text-look"}`}
        >
          {fit.severity === "stop" ? "■" : "▲"} {fit.message}{" "}
          <span className="text-ink-2">{fit.help}</span>
        </p>
      ))}
      {make.error && (
        <p role="alert" className="mt-3 text-stop">
          {make.error.message}
        </p>
      )}
      <div className="mt-5 flex justify-end gap-2">
        <Dialog.Close className="quiet min-h-8">Not now</Dialog.Close>
        <button
          className="action"
          disabled={
            make.isPending ||
            !chosenNozzle ||
            !chosenSpool ||
            fits.some((fit) => fit.severity === "stop")
          }
          onClick={() => make.mutate()}
        >
          Plan it
        </button>
      </div>
    </Sheet>
  );
}
