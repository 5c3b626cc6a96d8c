/** The two ends of the dial, kept with the material for this machine. */
import { useMutation, useQueryClient } from "@tanstack/react-query";

import { api, data } from "../../../api/client";
import { useRoom } from "../../state/room";

export type End = "precise" | "quick";
type Entry = Record<string, number | string>;

export function useDialEnds() {
  const { desk, machine, materials } = useRoom();
  const client = useQueryClient();
  const material = materials.find((entry) => entry.id === desk.choice.material);
  const keep = useMutation({
    mutationFn: ({ end, key, value }: { end: End; key: string; value: number | null }) => {
      if (!material || !machine) throw new Error("there is no material or machine yet");
      const sets = (material.figures?.[end] as Entry[] | undefined) ?? [];
      const mine = sets.find((entry) => entry.machine === machine.name) ?? {
        // what holds for any machine is where this one's own begins
        ...sets.find((entry) => !entry.machine),
        machine: machine.name,
      };
      const others = sets.filter((entry) => entry.machine !== machine.name);
      return data(
        api.PATCH("/api/materials/{id}", {
          params: { path: { id: material.id } },
          body: { figures: { [end]: [...others, { ...mine, [key]: value ?? 0 }] } },
        }),
      );
    },
    onSuccess: async () => {
      await client.invalidateQueries({ queryKey: ["materials"] });
      // the plan takes the material's figures as they are now
      desk.change({ ...desk.choice });
    },
  });
  return {
    /** Keep a value at an end; nothing leaves it to the limits. */
    set: (end: End, setting: string, value: number | null) => {
      keep.mutate({ end, key: setting.split(".")[1] ?? "", value });
    },
    error: keep.error,
    place: `${material?.name ?? "the material"} on ${machine?.name ?? "the machine"}`,
  };
}
