/** What was taken from a plan's file, and what the maker says about it. */
import { useMutation, useQuery } from "@tanstack/react-query";
import { useEffect, useRef } from "react";

import { api, data, type Plan, type Schemas } from "../../../api/client";
import { type Choice, type Values, withValue } from "../../state/choice";
import type { Room } from "../../state/room";

export type MeshFigures = Schemas["MeshFigures"];
export type Fault = Schemas["Fault"];

/** What is done to one body; what is left out is as it came. */
export interface BodyChange {
  name: string;
  left_out?: boolean;
  mirror?: "" | "x" | "y" | "z";
  turn_x?: number;
  turn_y?: number;
  turn_z?: number;
  shift_x?: number;
  shift_y?: number;
  shift_z?: number;
}

/** Changes when what is taken from the file does, or how it stands. */
export const meshKey = (plan: Plan): string =>
  JSON.stringify([plan.part.id, plan.latest.spec.mesh ?? {}, plan.latest.spec.place ?? {}]);

export function useMesh(plan: Plan, wanted = true) {
  return useQuery({
    queryKey: ["mesh", plan.id, meshKey(plan)],
    queryFn: () =>
      data(api.GET("/api/plans/{id}/mesh", { params: { path: { id: plan.id } } })),
    enabled: wanted,
    staleTime: Infinity,
    placeholderData: (before) => before,
  });
}

export const bodyChanges = (choice: Choice): BodyChange[] =>
  (choice.settings.mesh?.bodies ?? []) as BodyChange[];

/** The choice with something else said of one body; nothing said leaves it as it came. */
export function withBody(choice: Choice, change: BodyChange): Choice {
  const { name, ...said } = change;
  const some = Object.fromEntries(Object.entries(said).filter(([, value]) => Boolean(value)));
  const others = bodyChanges(choice).filter((other) => other.name !== name);
  const all = Object.keys(some).length ? [...others, { name, ...some }] : others;
  return withMesh(choice, "bodies", all.length ? all : undefined, undefined);
}

export function withMesh(
  choice: Choice,
  key: string,
  value: unknown,
  normal: unknown,
): Choice {
  const settings: Values = withValue(choice.settings, "mesh", key, value, normal);
  return { ...choice, settings };
}

/** Whether something is marked on the part. */
const hasPlaces = ({ settings }: Choice): boolean =>
  [
    settings.surface?.marks,
    settings.surface?.seam_marks,
    settings.supports?.marks,
    settings.body?.regions,
  ].some((places) => Array.isArray(places) && places.length > 0);

/** Changes one body; what is marked on it goes with it, which the core tells. */
export function useBodyChange({ desk, plan }: Pick<Room, "desk" | "plan">) {
  // what is changed while the answer is on its way stays
  const now = useRef(desk);
  useEffect(() => {
    now.current = desk;
  });
  const ask = useMutation({
    mutationFn: ({ choice, next }: { choice: Choice; next: Choice }) =>
      data(
        api.POST("/api/plans/{id}/bodies", {
          params: { path: { id: plan.id } },
          body: {
            ...choice,
            bodies: bodyChanges(next) as unknown as Record<string, unknown>[],
          },
        }),
      ),
    onSuccess: ({ values }) =>
      now.current.change(
        Object.entries(values).reduce((choice, [name, value]) => {
          const [group = "", key = ""] = name.split(".");
          // nothing said of any body is the default
          const some = value.length ? value : undefined;
          return {
            ...choice,
            settings: withValue(choice.settings, group, key, some, undefined),
          };
        }, now.current.choice),
      ),
  });
  return (change: BodyChange) => {
    const next = withBody(desk.choice, change);
    if (hasPlaces(desk.choice)) ask.mutate({ choice: desk.choice, next });
    else desk.change(next);
  };
}
