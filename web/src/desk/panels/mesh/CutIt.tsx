import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, data } from "../../../api/client";
import { useRoom } from "../../state/room";
import { NumberField } from "../NumberField";
import { Made } from "./Bodies";

const DIRECTIONS = {
  z: { word: "above the plate", normal: [0, 0, 1], axis: 2 },
  x: { word: "across x, from the middle of the bed", normal: [1, 0, 0], axis: 0 },
  y: { word: "across y, from the middle of the bed", normal: [0, 1, 0], axis: 1 },
} as const;
type Direction = keyof typeof DIRECTIONS;

/** The part as it stands, cut by a plane into two parts that stand on the cut. */
export function CutIt() {
  const { plan, placed, top } = useRoom();
  const client = useQueryClient();
  const [along, setAlong] = useState<Direction>("z");
  const [typed, setTyped] = useState<number | null>(null);
  const direction = DIRECTIONS[along];
  const at = typed ?? (along === "z" ? Number(top.toFixed(2)) : 0);
  const room = placed.size[direction.axis] ?? 0;
  const cut = useMutation({
    mutationFn: () =>
      data(
        api.POST("/api/plans/{id}/cut", {
          params: { path: { id: plan.id } },
          body: { normal: [...direction.normal], offset_mm: at },
        }),
      ),
    onSuccess: () => client.invalidateQueries({ queryKey: ["parts"] }),
  });
  return (
    <fieldset>
      <legend className="font-semibold">Cut it in two</legend>
      <p className="mt-1 flex flex-wrap items-center gap-2">
        <NumberField
          label="Cut at"
          unit="mm"
          value={at}
          min={along === "z" ? 0 : -2000}
          max={along === "z" ? room : 2000}
          step={1}
          width="w-18"
          onValue={setTyped}
        />
        <select
          className="field"
          aria-label="Direction of the cut"
          value={along}
          onChange={(event) => {
            setAlong(event.target.value as Direction);
            setTyped(null);
          }}
        >
          {Object.entries(DIRECTIONS).map(([key, { word }]) => (
            <option key={key} value={key}>
              {word}
            </option>
          ))}
        </select>
        <button className="quiet" disabled={cut.isPending} onClick={() => cut.mutate()}>
          Cut into two parts
        </button>
      </p>
      <p className="mt-1 text-ink-2">
        {along === "z" && typed === null && "At the cursor’s height. "}
        Both halves become parts that stand on the cut; this plan stays as it is.
      </p>
      <Made parts={cut.data} />
      {cut.error && (
        <p role="alert" className="text-stop">
          {cut.error.message}
        </p>
      )}
    </fieldset>
  );
}
