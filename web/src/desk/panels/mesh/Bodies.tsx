import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";

import { api, data } from "../../../api/client";
import { count, size } from "../../../format";
import { BODY_TINTS } from "../../stage/surfaceMaterial";
import { useRoom } from "../../state/room";
import { NumberField } from "../NumberField";
import { regionsOf, withRegions } from "../places/places";
import { type BodyChange, bodyChanges, type MeshFigures, useBodyChange } from "./useMesh";

const AXES = ["x", "y", "z"] as const;
/** Further bodies are named by the command line. */
const SHOWN = 40;

/** The bodies of the file: left out, moved, turned, mirrored, or made parts of their own. */
export function Bodies({ figures }: { figures: MeshFigures }) {
  const room = useRoom();
  const { desk, plan, marks } = room;
  const change = useBodyChange(room);
  const client = useQueryClient();
  const [open, setOpen] = useState<string | null>(null);
  const apart = useMutation({
    mutationFn: (bodies: string[]) =>
      data(
        api.POST("/api/plans/{id}/apart", {
          params: { path: { id: plan.id } },
          body: { bodies },
        }),
      ),
    onSuccess: () => client.invalidateQueries({ queryKey: ["parts"] }),
  });
  /** Its settings are those of a region that is the body; there is one at most. */
  const settle = (name: string) => {
    const regions = regionsOf(desk.choice);
    const known = regions.findIndex((one) => one.shape === "body" && one.body === name);
    if (known < 0)
      desk.change(
        withRegions(desk.choice, [
          ...regions,
          { name, shape: "body", body: name, x: 0, y: 0, z: 0, changes: {} },
        ]),
      );
    marks.pick({ kind: "region", n: known < 0 ? regions.length : known });
  };
  const said = bodyChanges(desk.choice);
  if (figures.body_count < 2) return null;
  const shown = figures.bodies.slice(0, SHOWN);
  return (
    <fieldset>
      <legend className="font-semibold">Bodies</legend>
      <ul className="mt-1 flex flex-col" aria-label="Bodies of the file">
        {shown.map((body, k) => {
          const own = said.find((one) => one.name === body.name) ?? { name: body.name };
          return (
            <li
              key={body.name}
              className="border-b border-hairline py-1"
              data-body={body.name}
            >
              <span className="flex items-center gap-2">
                <span
                  aria-hidden
                  className="inline-block h-3 w-3 shrink-0 border border-edge"
                  style={{ background: BODY_TINTS[k % BODY_TINTS.length] }}
                />
                <span className="min-w-0 flex-1 truncate" title={body.name}>
                  {body.name}
                  {body.splinter && <span className="text-ink-3"> (splinter)</span>}
                </span>
                <span className="narrow text-ink-2">{size(body.size_mm)}</span>
                <label className="flex items-center gap-1">
                  <input
                    type="checkbox"
                    className="accent-ink"
                    aria-label={`Lay ${body.name}`}
                    checked={!own.left_out}
                    onChange={(event) => change({ ...own, left_out: !event.target.checked })}
                  />{" "}
                  laid
                </label>
                <button
                  className="quiet"
                  aria-expanded={open === body.name}
                  aria-label={`Move or turn ${body.name}`}
                  onClick={() => setOpen(open === body.name ? null : body.name)}
                >
                  move …
                </button>
              </span>
              {open === body.name && (
                <BodyEditor
                  change={own}
                  onChange={change}
                  onApart={() => apart.mutate([body.name])}
                  onOwn={() => settle(body.name)}
                />
              )}
            </li>
          );
        })}
      </ul>
      {figures.body_count > shown.length && (
        <p className="text-ink-2">
          and {count(figures.body_count - shown.length)} more, which stay as they came
        </p>
      )}
      <p className="mt-1 flex flex-wrap items-center gap-2">
        <button
          className="quiet"
          aria-pressed={marks.marking === "bodies"}
          onClick={() => marks.onMarking(marks.marking === "bodies" ? null : "bodies")}
        >
          drag them on the stage
        </button>
        <button className="quiet" disabled={apart.isPending} onClick={() => apart.mutate([])}>
          every body a part of its own
        </button>
        <Made parts={apart.data} />
      </p>
      {apart.error && (
        <p role="alert" className="text-stop">
          {apart.error.message}
        </p>
      )}
    </fieldset>
  );
}

/** Where one body goes: all of it typed, in the coordinates of the file. */
function BodyEditor({
  change,
  onChange,
  onApart,
  onOwn,
}: {
  change: BodyChange;
  onChange: (change: BodyChange) => void;
  onApart: () => void;
  onOwn: () => void;
}) {
  return (
    <div className="mt-1 flex flex-col gap-1 pl-5">
      <span className="flex flex-wrap items-center gap-2">
        <span className="w-12">moved</span>
        {AXES.map((axis) => (
          <span key={axis} className="flex items-center gap-1">
            {axis}
            <NumberField
              label={`Move ${change.name} along ${axis}`}
              unit="mm"
              value={change[`shift_${axis}`] ?? 0}
              min={-5000}
              max={5000}
              step={1}
              width="w-16"
              onValue={(value) => onChange({ ...change, [`shift_${axis}`]: value ?? 0 })}
            />
          </span>
        ))}
      </span>
      <span className="flex flex-wrap items-center gap-2">
        <span className="w-12">turned</span>
        {AXES.map((axis) => (
          <span key={axis} className="flex items-center gap-1">
            {axis}
            <NumberField
              label={`Turn ${change.name} about ${axis}`}
              unit="°"
              value={change[`turn_${axis}`] ?? 0}
              min={-360}
              max={360}
              step={15}
              width="w-16"
              onValue={(value) => onChange({ ...change, [`turn_${axis}`]: value ?? 0 })}
            />
          </span>
        ))}
      </span>
      <span className="flex flex-wrap items-center gap-2">
        <label className="flex items-center gap-2">
          <span className="w-12">mirrored</span>
          <select
            className="field"
            aria-label={`Mirror ${change.name}`}
            value={change.mirror ?? ""}
            onChange={(event) =>
              onChange({ ...change, mirror: event.target.value as "" | "x" | "y" | "z" })
            }
          >
            <option value="">not</option>
            {AXES.map((axis) => (
              <option key={axis} value={axis}>
                along {axis}
              </option>
            ))}
          </select>
        </label>
        <button className="quiet" onClick={() => onChange({ name: change.name })}>
          back where it was drawn
        </button>
        <button className="quiet" onClick={onOwn}>
          settings of its own …
        </button>
        <button className="quiet" onClick={onApart}>
          a part of its own
        </button>
      </span>
    </div>
  );
}

/** Parts that were made, and where they are. */
export function Made({
  parts,
}: {
  parts: readonly { id: number; name: string }[] | undefined;
}) {
  if (!parts?.length) return null;
  return (
    <span role="status">
      {parts.map((part) => part.name).join(", ")}: now among the{" "}
      <Link className="text-fjord underline" to="/parts">
        parts
      </Link>
    </span>
  );
}
