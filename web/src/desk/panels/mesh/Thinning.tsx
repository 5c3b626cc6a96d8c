import { count } from "../../../format";
import { NumberField } from "../NumberField";
import { useRoom } from "../../state/room";
import { type MeshFigures, withMesh } from "./useMesh";

/** Seconds from which on it matters how long outlines take. */
const WORTH = 0.5;

/** Fewer triangles, up to a typed deviation, and what that came to. */
export function Thinning({ figures }: { figures: MeshFigures }) {
  const { desk } = useRoom();
  const allowed = Number(desk.choice.settings.mesh?.thin ?? 0);
  const thin = allowed > 0 ? figures.thinned : null;
  return (
    <fieldset>
      <legend className="font-semibold">Thin out</legend>
      <p className="mt-1 flex flex-wrap items-center gap-2">
        the surface may move by
        <NumberField
          label="Thin out to"
          unit="µm"
          value={allowed}
          min={0}
          max={2000}
          step={10}
          width="w-16"
          onValue={(value) => desk.change(withMesh(desk.choice, "thin", value ?? 0, 0))}
        />
        <span className="text-ink-2">0 keeps every triangle</span>
      </p>
      {thin && (
        <dl className="mt-1 grid grid-cols-[auto_1fr_1fr] gap-x-4" data-thinned>
          <dt className="text-ink-2" />
          <dd className="text-ink-2">as it came</dd>
          <dd className="text-ink-2">thinned</dd>
          <dt>triangles</dt>
          <dd>{count(thin.triangles_before)}</dd>
          <dd className="font-semibold">{count(thin.triangles_after)}</dd>
          <dt>moved, as measured</dt>
          <dd />
          <dd className="font-semibold">{thin.moved_um.toFixed(1)} µm</dd>
          <dt>step error of even layers, P95</dt>
          <dd>{thin.p95_before_um.toFixed(0)} µm</dd>
          <dd>{thin.p95_after_um.toFixed(0)} µm</dd>
          {thin.outlines_before_s >= WORTH && (
            <>
              <dt>its outlines take</dt>
              <dd>{thin.outlines_before_s.toFixed(1)} s</dd>
              <dd>{thin.outlines_after_s.toFixed(1)} s</dd>
            </>
          )}
        </dl>
      )}
      {thin && thin.triangles_after === thin.triangles_before && (
        <p className="mt-1 text-ink-2">
          Nothing could be merged without moving the surface further.
        </p>
      )}
    </fieldset>
  );
}
