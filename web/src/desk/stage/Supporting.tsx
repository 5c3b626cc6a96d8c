import { useQuery } from "@tanstack/react-query";

import { api, data } from "../../api/client";
import { NumberField } from "../panels/NumberField";
import { supportMarksOf, withSupportMarks } from "../panels/paths/Stands";
import { withValue } from "../state/choice";
import { useRoom } from "../state/room";
import type { Desk } from "../state/useDesk";

export interface SupportBrush {
  does: "ask" | "forbid" | "erase";
  /** Reach of the brush in mm; 0 fills the face. */
  radius: number;
  /** Edges (degrees) over which a fill goes on. */
  spread: number;
}

/** How much of the surface is painted, cut exactly. */
function usePainted(desk: Desk, some: boolean) {
  const { plan } = useRoom();
  const { choice } = desk;
  const { place, mesh, supports } = choice.settings;
  const found = useQuery({
    queryKey: ["painted", plan.id, JSON.stringify([place, mesh, supports?.marks])],
    queryFn: () =>
      data(
        api.POST("/api/plans/{id}/painted", {
          params: { path: { id: plan.id } },
          body: choice,
        }),
      ),
    enabled: some,
    retry: false,
    staleTime: Infinity,
    gcTime: 60_000,
    placeholderData: (before) => before,
  });
  return some ? found.data : undefined;
}

/**
 * Supports by hand: click on the part to ask for support there or to forbid it, with a brush or by
 * filling a face.
 */
export function Supporting({
  desk,
  brush,
  onBrush,
}: {
  desk: Desk;
  brush: SupportBrush;
  onBrush: (brush: SupportBrush) => void;
}) {
  const marks = supportMarksOf(desk);
  const painted = usePainted(desk, marks.length > 0);
  const on = desk.choice.settings.supports?.enabled === true;
  const said = desk.choice.settings.supports?.decided;
  const decided = typeof said === "string" ? said : "both";
  const onDecided = (next: string) => {
    const { settings } = desk.choice;
    const chosen = withValue(settings, "supports", "decided", next, "both");
    // by itself needs supports to be on; only by hand is what they are while they are off
    const enabled = next !== "hand" || on;
    desk.change({
      ...desk.choice,
      settings: withValue(chosen, "supports", "enabled", enabled, false),
    });
  };
  return (
    <div
      role="group"
      aria-label="Supports by hand"
      className="absolute top-11 left-3 z-[5] w-72 border border-edge bg-sheet p-2 text-[13px]"
    >
      <p>
        {brush.radius > 0 ? "Drag over the part" : "Click on the part"}, from below too; turn
        it beside the part.{" "}
        {!on && "Supports are otherwise off: only what is asked for here is held."}
      </p>
      <div className="mt-1 flex flex-wrap items-center gap-1">
        {(
          [
            ["ask", "support here"],
            ["forbid", "none here"],
            ["erase", "erase"],
          ] as const
        ).map(([does, name]) => (
          <button
            key={name}
            className="quiet"
            aria-pressed={brush.does === does}
            onClick={() => onBrush({ ...brush, does })}
          >
            {name}
          </button>
        ))}
      </div>
      <div className="mt-1 flex flex-wrap items-center gap-1">
        {(
          [
            [0, "fill a face"],
            [5, "brush"],
          ] as const
        ).map(([radius, name]) => (
          <button
            key={name}
            className="quiet"
            aria-pressed={(brush.radius === 0) === (radius === 0)}
            onClick={() => onBrush({ ...brush, radius })}
          >
            {name}
          </button>
        ))}
        {brush.radius > 0 ? (
          <NumberField
            label="Reach of the brush"
            unit="mm"
            value={brush.radius}
            min={0.5}
            max={500}
            step={1}
            width="w-12"
            onValue={(v) => v && onBrush({ ...brush, radius: v })}
          />
        ) : (
          <NumberField
            label="Fill over edges up to"
            unit="°"
            value={brush.spread}
            min={0}
            max={180}
            step={5}
            width="w-12"
            onValue={(v) => v !== null && onBrush({ ...brush, spread: v })}
          />
        )}
      </div>
      <label className="mt-1 flex items-center gap-1">
        decided
        <select
          className="field"
          aria-label="What decides where supports are"
          value={on ? decided : "hand"}
          onChange={(event) => onDecided(event.target.value)}
        >
          <option value="both">by itself and by hand</option>
          <option value="itself">by itself</option>
          <option value="hand">only by hand</option>
        </select>
      </label>
      {painted && (
        <p role="status" className="mt-1" data-painted>
          {painted.asked_mm2.toFixed(0)} mm² asked for, {painted.forbidden_mm2.toFixed(0)} mm²
          kept clear
        </p>
      )}
      <ul className="max-h-40 overflow-auto">
        {marks.map((mark, n) => (
          <li key={n} className="mt-1 flex items-center gap-1">
            <span className="flex-1">
              {n + 1} {mark.erase ? "erased" : mark.want ? "support" : "none"} at{" "}
              {mark.x.toFixed(1)}, {mark.y.toFixed(1)}, {mark.z.toFixed(1)}
              {mark.radius > 0
                ? `, ${mark.radius} mm around${mark.along?.length ? ", a stroke" : ""}`
                : `, over ${mark.spread}°`}
            </span>
            <button
              className="quiet"
              aria-label={`Remove support mark ${n + 1}`}
              onClick={() =>
                desk.change(
                  withSupportMarks(
                    desk,
                    marks.filter((_, k) => k !== n),
                  ),
                )
              }
            >
              remove
            </button>
          </li>
        ))}
      </ul>
    </div>
  );
}
