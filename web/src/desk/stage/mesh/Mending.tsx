import { useState } from "react";

import { useMesh } from "../../panels/mesh/useMesh";
import type { Room } from "../../state/room";
import { FaultMarks } from "./FaultMarks";
import { MeshLegend } from "./MeshLegend";
import { MeshSurface } from "./MeshSurface";
import { type MeshSurfaces, useMeshChanges, type When } from "./useMeshChanges";

export interface MendingView {
  /** Both surfaces, once they are there and wanted. */
  shown: MeshSurfaces | undefined;
  wanted: boolean;
  error: string | undefined;
  figures: ReturnType<typeof useMesh>["data"];
  when: When;
  onWhen: (when: When) => void;
}

/** The mesh before and after mending, for the stage. */
export function useMending({ plan }: Room, wanted: boolean): MendingView {
  const [when, onWhen] = useState<When>("after");
  const changes = useMeshChanges(plan, wanted);
  const mesh = useMesh(plan, wanted);
  return {
    shown: wanted ? changes.data : undefined,
    wanted,
    error: changes.error?.message,
    figures: mesh.data,
    when,
    onWhen,
  };
}

/** The surface and the marks of its faults. */
export function Mending({ mending }: { mending: MendingView }) {
  const { shown, figures, when } = mending;
  return (
    <>
      {shown && <MeshSurface surfaces={shown} when={when} />}
      {figures && <FaultMarks faults={figures.faults} />}
    </>
  );
}

/** What is said of it over the stage. */
export function MendingNotes({ mending }: { mending: MendingView }) {
  const { wanted, shown, error, figures, when, onWhen } = mending;
  if (!wanted) return null;
  if (error && !shown)
    return (
      <p role="alert" className="absolute right-3 bottom-14 text-[13px] text-stop">
        {error}
      </p>
    );
  if (!shown)
    return (
      <p role="status" className="absolute right-3 bottom-14 text-[13px] text-ink-2">
        Comparing the file with what was taken …
      </p>
    );
  return <MeshLegend figures={figures} when={when} onWhen={onWhen} />;
}
