import { useState } from "react";

import type { Setting } from "../../../api/client";
import { valueOf } from "../../state/recipes";
import type { Desk } from "../../state/useDesk";
import { BandForm } from "./BandForm";
import type { Ties } from "./EdgeField";
import { Here } from "./Here";
import {
  mergedBands,
  type Band,
  bandsOf,
  bandWords,
  overlap,
  placedBands,
  type Region,
  regionsOf,
  regionWords,
  replaced,
  SHAPES,
  withBands,
  withRegions,
} from "./places";
import { RegionForm } from "./RegionForm";
import { RepeatForm } from "./RepeatForm";
import { toFile } from "../../stage/useShape";
import { useRoom } from "../../state/room";

/** Bands and regions in a list, each open to its settings, and what differs at the cursor. */
export function PlacesPanel() {
  const { plan, desk, settings, top: z, placed: stands, findings, marks, sight } = useRoom();
  const { picked, pick: onPick, lines } = marks;
  const { toHeight: onHeight } = sight;
  const { shape, size } = stands;
  const bounds = {
    top: size[2] ?? 0,
    least: desk.now.resolved.least_height,
    greatest: desk.now.resolved.greatest_height,
  };
  const ties: Ties = {
    flats: desk.figures?.surface.flats_mm ?? [],
    findings: findings.filter((finding) => finding.z_mm !== null),
    toFile: shape ? (point) => toFile(shape.affine, point) : null,
  };
  const onPlace = () => marks.onMarking("regions");
  const [repeat, setRepeat] = useState(false);
  const bands = bandsOf(desk.choice);
  const placed = placedBands(bands, desk);
  const regions = regionsOf(desk.choice);
  const base = (setting: Setting) =>
    valueOf(desk.choice.settings, setting) ?? openValue(setting, desk.now);
  const clash = overlap(bands);
  const toggle = (kind: "band" | "region", n: number) =>
    onPick(picked?.kind === kind && picked.n === n ? null : { kind, n });
  const setBands = (next: Band[]) => desk.change(withBands(desk.choice, next));
  const setRegions = (next: Region[]) => desk.change(withRegions(desk.choice, next));
  const swap = (n: number, by: number) => {
    const [one, two] = [regions[n], regions[n + by]];
    if (!one || !two) return;
    setRegions(replaced(replaced(regions, n, two), n + by, one));
    onPick({ kind: "region", n: n + by });
  };
  const addBand = () => {
    const low = Math.max(0, Math.min(z, bounds.top - 1));
    setBands([
      ...bands,
      {
        name: "",
        from_mm: Number(low.toFixed(2)),
        to_mm: Number(Math.min(bounds.top, low + 4).toFixed(2)),
        changes: {},
      },
    ]);
    onPick({ kind: "band", n: bands.length });
  };
  const addSolid = () => {
    const [x, y, at] = (ties.toFile?.([0, 0, z]) ?? [0, 0, 0]).map((v) =>
      Number(v.toFixed(2)),
    ) as [number, number, number];
    setRegions([
      ...regions,
      { name: "", shape: "box", x, y, z: at, size_x: 10, size_y: 10, size_z: 10, changes: {} },
    ]);
    onPick({ kind: "region", n: regions.length });
  };
  const merge = async () => {
    const found = await mergedBands(bands);
    onPick(null);
    setBands(found);
  };
  const order = bands
    .map((_, n) => n)
    .sort((a, b) => (placed[a]?.from_mm ?? 0) - (placed[b]?.from_mm ?? 0));
  return (
    <div className="flex flex-col gap-4 p-3 text-[13px]">
      <section aria-label="Bands">
        <h3 className="font-semibold">Bands: stretches of height</h3>
        <p className="mt-1 flex flex-wrap gap-2">
          <button className="quiet" onClick={addBand}>
            + band at the cursor
          </button>
          <button className="quiet" aria-pressed={repeat} onClick={() => setRepeat(!repeat)}>
            Repeat …
          </button>
          {clash && (
            <span role="alert" className="text-stop">
              {clash}.{" "}
              <button className="quiet" onClick={() => void merge()}>
                Merge them
              </button>
            </span>
          )}
        </p>
        {repeat && (
          <RepeatForm
            settings={settings}
            base={base}
            from={Math.min(6, bounds.top)}
            top={bounds.top}
            onBands={(more) => setBands([...bands, ...more])}
            onDone={() => setRepeat(false)}
          />
        )}
        {bands.length === 0 && !repeat && (
          <p className="mt-1 text-ink-2">
            None yet. A band changes any settings between two heights and nothing else: draw
            one across the lanes, or type its edges here.
          </p>
        )}
        <ul className="mt-1">
          {order.map((n) => {
            const [band, at] = [bands[n] as Band, placed[n] as Band];
            const open = picked?.kind === "band" && picked.n === n;
            return (
              <li key={n} data-band-row={n} className="border-t border-hairline py-0.5">
                <div className="flex items-center gap-2">
                  <button
                    className="quiet"
                    aria-expanded={open}
                    onClick={() => toggle("band", n)}
                  >
                    <b>{band.name || "band"}</b> {at.from_mm.toFixed(2)} →{" "}
                    {at.to_mm.toFixed(2)} mm
                  </button>
                  <span className="narrow flex-1">{bandWords(band, settings)}</span>
                  <button
                    className="quiet"
                    aria-label={`Go to band ${n + 1}`}
                    onClick={() => onHeight(at.from_mm + 1e-3)}
                  >
                    go
                  </button>
                </div>
                {open && (
                  <BandForm
                    plan={plan}
                    band={band}
                    placed={at}
                    settings={settings}
                    base={base}
                    bounds={bounds}
                    ties={ties}
                    onBand={(next) => setBands(replaced(bands, n, next))}
                    onRemove={() => {
                      onPick(null);
                      setBands(bands.filter((_, k) => k !== n));
                    }}
                  />
                )}
              </li>
            );
          })}
        </ul>
      </section>
      <section aria-label="Regions">
        <h3 className="font-semibold">Regions: volumes in the part</h3>
        <p className="mt-1 flex flex-wrap gap-2">
          <button className="quiet" onClick={onPlace}>
            + region: click on the part …
          </button>
          <button className="quiet" disabled={!ties.toFile} onClick={addSolid}>
            + box by numbers
          </button>
        </p>
        {regions.length === 0 && (
          <p className="mt-1 text-ink-2">
            None yet. A region changes settings inside a volume: under a floor, near a face,
            inside an outline you draw, or in a plain solid.
          </p>
        )}
        <ol className="mt-1">
          {regions.map((region, n) => {
            const open = picked?.kind === "region" && picked.n === n;
            const line = lines[n];
            return (
              <li key={n} data-region-row={n} className="border-t border-hairline py-0.5">
                <div className="flex items-center gap-2">
                  <button
                    className="quiet"
                    aria-expanded={open}
                    onClick={() => toggle("region", n)}
                  >
                    {n + 1} {region.name || SHAPES[region.shape]}
                  </button>
                  <span className="narrow flex-1">
                    {regionWords(region, settings)}
                    {line && line.from_mm !== null && (
                      <span className="text-ink-3">
                        {" "}
                        · {line.from_mm.toFixed(1)} to {line.to_mm?.toFixed(1)} mm
                      </span>
                    )}
                    {line?.message && !open && <b className="text-stop"> {line.message}</b>}
                  </span>
                </div>
                {open && (
                  <RegionForm
                    region={region}
                    settings={settings}
                    base={base}
                    message={line?.message ?? ""}
                    onRegion={(next) => setRegions(replaced(regions, n, next))}
                    onUp={n > 0 ? () => swap(n, -1) : null}
                    onDown={n < regions.length - 1 ? () => swap(n, 1) : null}
                    onRemove={() => {
                      onPick(null);
                      setRegions(regions.filter((_, k) => k !== n));
                    }}
                  />
                )}
              </li>
            );
          })}
        </ol>
      </section>
      <Here plan={plan} desk={desk} settings={settings} z={z} />
    </div>
  );
}

/**
 * What holds where a setting is left open: the plan's own answer, else that of the machine or
 * material.
 */
function openValue(setting: Setting, { spec, resolved }: Desk["now"]): unknown {
  const [group = "", key] = setting.source.split(".");
  return (
    ({ ...resolved } as Record<string, unknown>)[setting.key] ??
    (key
      ? spec[group]?.[key]
      : (spec.material?.[setting.key] ?? spec.machine?.[setting.key])) ??
    null
  );
}
