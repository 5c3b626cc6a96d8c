import { clsx } from "clsx";
import { type DragEvent, type ReactNode, useState } from "react";
import { useNavigate } from "react-router";

import { useTakeIn } from "../api/hooks";

/** A mesh file can be dropped on any screen; it is taken in and the list of parts opens. */
export function DropAnywhere({ children }: { children: ReactNode }) {
  const [over, setOver] = useState(false);
  const takeIn = useTakeIn();
  const navigate = useNavigate();
  const drag = (event: DragEvent, inside: boolean) => {
    if (!event.dataTransfer.types.includes("Files")) return;
    event.preventDefault();
    setOver(inside);
  };
  const drop = (event: DragEvent) => {
    if (!event.dataTransfer.files.length) return;
    event.preventDefault();
    setOver(false);
    for (const file of event.dataTransfer.files) takeIn.mutate(file);
    void navigate("/parts");
  };
  return (
    <div
      className="h-full"
      onDragOver={(event) => drag(event, true)}
      onDragLeave={(event) => drag(event, false)}
      onDrop={drop}
    >
      {children}
      {over && (
        <div
          className={clsx(
            "pointer-events-none fixed inset-3 z-50 flex items-center",
            "justify-center border-2 border-dashed border-fjord bg-sheet/80 text-xl",
            "font-semibold",
          )}
        >
          Drop the mesh file: STL, OBJ, PLY or 3MF
        </div>
      )}
      {takeIn.error && (
        <div
          role="alert"
          className={clsx(
            "fixed right-4 bottom-4 z-50 max-w-sm border border-stop bg-sheet p-3",
            "text-[13px]",
          )}
        >
          <b className="text-stop">Not taken in.</b> {takeIn.error.message}
          <button className="quiet ml-2" onClick={() => takeIn.reset()}>
            Close
          </button>
        </div>
      )}
    </div>
  );
}
