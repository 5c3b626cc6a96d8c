import { useState } from "react";
import { Link } from "react-router";

import { NumberField } from "./NumberField";
import { OtherMesh } from "./OtherMesh";
import { standingOn, type Values } from "../state/choice";
import { useRoom } from "../state/room";

const AXES = ["x", "y", "z"] as const;

function word(normal: readonly number[]): string {
  const k = normal.findIndex((v) => Math.abs(v) > 0.999);
  if (k >= 0) return `${(normal[k] ?? 0) > 0 ? "+" : "−"}${AXES[k]} side of the file`;
  return `facing ${normal.map((v) => v.toFixed(2)).join(", ")}`;
}

/** How the part stands: size, turns, the face it stands on, where on the bed. */
export function Placement() {
  const { plan, desk, placed, marks } = useRoom();
  const { size } = placed;
  const [even, setEven] = useState(true);
  const place = (desk.choice.settings.place ?? {}) as Record<
    string,
    number | boolean | string
  >;
  const number = (key: string, normal: number) =>
    typeof place[key] === "number" ? place[key] : normal;
  const set = (changes: Record<string, number | boolean | string>) => {
    const own: Record<string, unknown> = { ...place, ...changes };
    const settings: Values = { ...desk.choice.settings, place: own };
    desk.change({ ...desk.choice, settings });
  };
  const rescale = (axis: (typeof AXES)[number], percent: number) => {
    const ratio = percent / number(`scale_${axis}`, 100);
    set(
      even
        ? Object.fromEntries(
            AXES.map((a) => [`scale_${a}`, number(`scale_${a}`, 100) * ratio]),
          )
        : { [`scale_${axis}`]: percent },
    );
  };
  const every = plan.part.facts?.faces ?? [];
  // facets of a round side are no faces to stand on
  const faces = every.filter((face) => face.area_mm2 > 0.03 * (every[0]?.area_mm2 ?? 0));
  const down = AXES.map((a) => number(`down_${a}`, a === "z" ? -1 : 0));
  return (
    <div className="flex flex-col gap-3 p-3 text-[13px]">
      <fieldset>
        <legend className="font-semibold">Size as it stands</legend>
        <div className="mt-1 flex flex-col gap-1">
          {AXES.map((axis, k) => (
            <span key={axis} className="flex items-center gap-2">
              <span className="w-3">{axis}</span>
              <NumberField
                label={`Scale ${axis}`}
                unit="%"
                value={number(`scale_${axis}`, 100)}
                min={0.1}
                max={100000}
                width="w-16"
                onValue={(v) => v && rescale(axis, v)}
              />
              <NumberField
                label={`Size ${axis}`}
                unit="mm"
                value={Number((size[k] ?? 0).toFixed(3))}
                min={0.1}
                max={5000}
                width="w-18"
                onValue={(v) =>
                  v && size[k] && rescale(axis, (number(`scale_${axis}`, 100) * v) / size[k])
                }
              />
            </span>
          ))}
        </div>
        <p className="mt-1 flex flex-wrap gap-4">
          <label className="flex items-center gap-1">
            <input
              type="checkbox"
              className="accent-ink"
              checked={even}
              onChange={(event) => setEven(event.target.checked)}
            />{" "}
            keep proportions
          </label>
          <label className="flex items-center gap-1">
            <input
              type="checkbox"
              className="accent-ink"
              checked={place.inches === true}
              onChange={(event) => set({ inches: event.target.checked })}
            />{" "}
            the file is in inches
          </label>
        </p>
        <label className="mt-1 flex items-center gap-2">
          mirrored
          <select
            className="field"
            aria-label="Mirror the part"
            value={typeof place.mirror === "string" ? place.mirror : ""}
            onChange={(event) => set({ mirror: event.target.value })}
          >
            <option value="">not</option>
            {AXES.map((axis) => (
              <option key={axis} value={axis}>
                along {axis} of the file
              </option>
            ))}
          </select>
        </label>
      </fieldset>
      <fieldset>
        <legend className="font-semibold">Turn</legend>
        <button
          className="quiet mt-1"
          aria-pressed={marks.marking === "turn"}
          onClick={() => marks.onMarking(marks.marking === "turn" ? null : "turn")}
        >
          by a handle on the stage
        </button>
        <div className="mt-1 flex flex-col gap-1">
          {AXES.map((axis) => (
            <span key={axis} className="flex items-center gap-1">
              about {axis}
              <NumberField
                label={`Turn about ${axis}`}
                unit="°"
                value={number(`turn_${axis}`, 0)}
                min={-360}
                max={360}
                step={15}
                width="w-14"
                onValue={(v) => set({ [`turn_${axis}`]: v ?? 0 })}
              />
              <button
                className="quiet"
                aria-label={`Turn by 90 degrees about ${axis}`}
                onClick={() =>
                  set({ [`turn_${axis}`]: (number(`turn_${axis}`, 0) + 90) % 360 })
                }
              >
                +90°
              </button>
            </span>
          ))}
        </div>
      </fieldset>
      <fieldset>
        <legend className="font-semibold">On the bed, from its middle</legend>
        <div className="mt-1 flex gap-4">
          {(["x", "y"] as const).map((axis) => (
            <span key={axis} className="flex items-center gap-1">
              {axis}
              <NumberField
                label={`Shift ${axis}`}
                unit="mm"
                value={number(`shift_${axis}`, 0)}
                min={-2000}
                max={2000}
                step={1}
                width="w-16"
                onValue={(v) => set({ [`shift_${axis}`]: v ?? 0 })}
              />
            </span>
          ))}
          <button className="quiet" onClick={() => set({ shift_x: 0, shift_y: 0 })}>
            Centre
          </button>
        </div>
      </fieldset>
      <fieldset>
        <legend className="font-semibold">Stand on a face</legend>
        <p className="mt-1 flex flex-wrap items-center gap-3">
          <button
            className="quiet"
            aria-pressed={marks.marking === "stand"}
            onClick={() => marks.onMarking(marks.marking === "stand" ? null : "stand")}
          >
            click it on the stage
          </button>
          <Link className="text-fjord underline" to={`/plans/${plan.id}/ways`}>
            Ways up, with what each costs …
          </Link>
        </p>
        <div className="mt-1 flex flex-col gap-1">
          {faces.slice(0, 8).map((face) => {
            const on = face.normal.every((v, k) => Math.abs(v - (down[k] ?? 0)) < 1e-4);
            return (
              <button
                key={face.normal.join()}
                className="quiet justify-between"
                aria-pressed={on}
                onClick={() => desk.change(standingOn(desk.choice, face.normal))}
              >
                <span>{word(face.normal)}</span>
                <span>{face.area_mm2.toFixed(0)} mm²</span>
              </button>
            );
          })}
        </div>
      </fieldset>
      <fieldset>
        <legend className="font-semibold">Less of it</legend>
        <span className="mt-1 flex flex-wrap gap-4">
          sunk{" "}
          <NumberField
            label="Sink"
            unit="mm into the bed"
            value={number("sink", 0)}
            min={0}
            max={5000}
            step={0.2}
            width="w-16"
            onValue={(v) => set({ sink: v ?? 0 })}
          />
          trimmed{" "}
          <NumberField
            label="Trim the top"
            unit="mm at the top"
            value={number("trim_top", 0)}
            min={0}
            max={5000}
            step={0.2}
            width="w-16"
            onValue={(v) => set({ trim_top: v ?? 0 })}
          />
        </span>
      </fieldset>
      <OtherMesh plan={plan} />
    </div>
  );
}
