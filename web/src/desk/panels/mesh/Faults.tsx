import { useState } from "react";

import { useRoom } from "../../state/room";
import { type Fault, type MeshFigures, withMesh } from "./useMesh";

/** What is wrong with the file, each kind with its places, and what mending did about it. */
export function Faults({ figures }: { figures: MeshFigures }) {
  const { desk, sight } = useRoom();
  const looked = desk.choice.settings.mesh?.looked_at === true;
  return (
    <fieldset>
      <legend className="font-semibold">Faults of the file</legend>
      {figures.faults.length === 0 ? (
        <p className="mt-1">None: it is closed, and no two surfaces run through each other.</p>
      ) : (
        <ul className="mt-1 flex flex-col gap-0.5">
          {figures.faults.map((fault) => (
            <FaultRow key={fault.kind} fault={fault} />
          ))}
        </ul>
      )}
      {figures.mended.length > 0 && (
        <>
          <h3 className="mt-2 font-semibold">What mending did</h3>
          <ul className="flex flex-col gap-0.5">
            {figures.mended.map((done) => (
              <li key={done.words} className="flex gap-2">
                <span className="flex-1">{done.words}</span>
                {Math.abs(done.volume_mm3) >= 0.05 && (
                  <span className="narrow whitespace-nowrap">
                    {done.volume_mm3 > 0 ? "+" : "−"}
                    {Math.abs(done.volume_mm3).toFixed(1)} mm³
                  </span>
                )}
              </li>
            ))}
          </ul>
        </>
      )}
      <p className="mt-1 flex flex-wrap items-center gap-2">
        <button
          className="quiet"
          aria-pressed={sight.view === "mesh"}
          onClick={() => sight.look(sight.view === "mesh" ? "shape" : "mesh")}
        >
          before and after on the stage
        </button>
        <span className="text-ink-2">
          {figures.added_mm2.toFixed(0)} mm² added, {figures.dropped_mm2.toFixed(0)} dropped,{" "}
          {figures.turned_mm2.toFixed(0)} turned
        </span>
      </p>
      {figures.guessed && (
        <p className={looked ? "mt-1 text-ink-2" : "mt-1 text-look"}>
          The widest opening was <b>{figures.widest_opening_mm.toFixed(1)} mm</b> across and
          closed by guessing.{" "}
          <label className="inline-flex items-center gap-1 whitespace-nowrap text-ink">
            <input
              type="checkbox"
              className="accent-ink"
              checked={looked}
              onChange={(event) =>
                desk.change(withMesh(desk.choice, "looked_at", event.target.checked, false))
              }
            />{" "}
            I looked, it is meant so
          </label>
        </p>
      )}
    </fieldset>
  );
}

/** One kind of fault; pressing again goes on to its next place. */
function FaultRow({ fault }: { fault: Fault }) {
  const { sight } = useRoom();
  const [next, setNext] = useState(0);
  const places = fault.places.length;
  return (
    <li className="flex items-center gap-2" data-fault={fault.kind}>
      <span className="flex-1">{fault.words}</span>
      {places > 0 && (
        <button
          className="quiet whitespace-nowrap"
          aria-label={`Show where: ${fault.words}`}
          onClick={() => {
            const [x = 0, y = 0, z = 0] = fault.places[next % places] ?? [];
            sight.look("mesh");
            sight.toPlace([x, y, z], fault.words);
            setNext((next + 1) % places);
          }}
        >
          {places === 1 ? "show" : `show ${(next % places) + 1} of ${places}`}
        </button>
      )}
    </li>
  );
}
