import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, data, type Schemas } from "../api/client";
import { OPEN } from "../api/hooks";
import { turned, type Point } from "./geometry";

export type Bed = Schemas["Bed"];
export type BedSpec = Schemas["BedSpec"];
export type BedReport = Schemas["BedReport"];
export type Placing = Required<Schemas["Placing"]>;
export type Wish = "" | "arrange" | "fill" | "share";

/** Everything the screen of a bed knows: the bed, what is being changed, what is marked. */
export function useBed(id: number) {
  const client = useQueryClient();
  const key = ["bed", id];
  const path = { params: { path: { id } } };
  const query = useQuery({
    queryKey: key,
    queryFn: () => data(api.GET("/api/beds/{id}", path)),
    refetchInterval: (found) =>
      OPEN.includes(found.state.data?.version.state ?? "") ? 400 : false,
  });
  const bed = query.data;
  const take = (changed: Bed) => {
    client.setQueryData(key, changed);
    setDraft(null);
  };
  // what is dragged or typed, until the service has it
  const [draft, setDraft] = useState<BedSpec | null>(null);
  const [picked, setPicked] = useState<number | null>(null);
  const change = useMutation({
    mutationFn: (body: Schemas["PatchedBedChangeRequest"]) =>
      data(api.PATCH("/api/beds/{id}", { ...path, body })),
    onSuccess: take,
    onError: () => {
      setDraft(null);
      void client.invalidateQueries({ queryKey: key });
    },
    scope: { id: `bed ${id}` },
  });
  const steps = useMutation({
    mutationFn: (what: "undo" | "redo" | "cancel") =>
      data(api.POST(`/api/beds/{id}/${what}`, path)),
    onSuccess: take,
  });
  const spec = draft ?? bed?.version.spec;
  const placings = (spec?.placings ?? []) as Placing[];
  const save = (
    next: BedSpec,
    wish: Wish = "",
    more: Schemas["PatchedBedChangeRequest"] = {},
  ) => {
    setDraft(next);
    change.mutate({
      spec: next,
      wish,
      base: bed?.version.number,
      ...more,
    });
  };
  return {
    query,
    bed,
    spec,
    placings,
    picked,
    pick: setPicked,
    /** Show changed placings without keeping them yet. */
    show: (changed: Placing[]) => spec && setDraft({ ...spec, placings: changed }),
    save,
    put: (changed: Placing[]) => spec && save({ ...spec, placings: changed, order: [] }),
    set: (values: Partial<BedSpec>) => spec && save({ ...spec, ...values }),
    arrange: () => spec && save(spec, "arrange"),
    fill: (pin: string) => spec && save(spec, "fill", { fill_with: pin }),
    /** So many copies in all, over as many beds as it takes. */
    share: (pin: string, count: number, evenly: boolean) =>
      spec && save(spec, "share", { fill_with: pin, count, evenly }),
    name: (name: string) => change.mutate({ name }),
    spool: (spool: number | null) => change.mutate({ spool }),
    undo: () => steps.mutate("undo"),
    redo: () => steps.mutate("redo"),
    cancel: () => steps.mutate("cancel"),
    error: change.error ?? steps.error,
    /** The figures that are known, and whether they are of what is on the screen. */
    report: bed?.version.report ?? bed?.exact?.report ?? null,
    fresh: bed?.version.state === "done" && !draft,
    computing: OPEN.includes(bed?.version.state ?? ""),
  };
}

export type BedRoom = ReturnType<typeof useBed>;

/** The rings of a placing about its middle; turned here where its turn is not computed yet. */
export function outlineOf(bed: Bed, placing: Placing): Point[][] {
  const known = bed.version.outlines ?? bed.exact?.outlines ?? {};
  const exact = known[`${placing.plan} ${placing.turn}`];
  if (exact) return exact.outline.map((ring) => turned(ring, 0));
  const other = Object.entries(known).find(([name]) => name.startsWith(`${placing.plan} `));
  if (!other) return [];
  const [name, shape] = other;
  const by = placing.turn - Number(name.split(" ")[1] ?? 0);
  return shape.outline.map((ring) => turned(ring, by));
}
