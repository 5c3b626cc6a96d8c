/** The two ends of the dial, kept with the material for this machine. */
import { useMutation, useQueryClient } from "@tanstack/react-query";

import { api, data } from "../../../api/client";
import { useRoom } from "../../state/room";

export type End = "precise" | "quick";

export function useDialEnds() {
  const { desk, machine, materials } = useRoom();
  const client = useQueryClient();
  const material = materials.find((entry) => entry.id === desk.choice.material);
  const keep = useMutation({
    mutationFn: (at: { end: End; setting: string; value: number | null }) => {
      if (!material || !machine) throw new Error("there is no material or machine yet");
      return data(
        api.POST("/api/materials/{id}/dial", {
          params: { path: { id: material.id } },
          body: { ...at, machine: machine.id },
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
      keep.mutate({ end, setting: setting.split(".")[1] ?? "", value });
    },
    error: keep.error,
    place: `${material?.name ?? "the material"} on ${machine?.name ?? "the machine"}`,
  };
}
