import { count } from "../../../format";
import { useRoom } from "../../state/room";
import { Bodies } from "./Bodies";
import { Choices } from "./Choices";
import { CutIt } from "./CutIt";
import { Faults } from "./Faults";
import { Thinning } from "./Thinning";
import { useMesh } from "./useMesh";

/** What was taken from the file: its faults and what mending did, how fine it stays, its bodies. */
export function MeshPanel() {
  const { plan } = useRoom();
  const mesh = useMesh(plan);
  if (mesh.error && !mesh.data)
    return (
      <p role="alert" className="p-3 text-stop">
        {mesh.error.message}
      </p>
    );
  if (!mesh.data)
    return (
      <p role="status" className="p-3 text-ink-2">
        Looking at the mesh …
      </p>
    );
  const figures = mesh.data;
  return (
    <div className="flex flex-col gap-3 p-3 text-[13px]" aria-busy={mesh.isFetching}>
      <p className="text-ink-2">
        {count(figures.triangles)} triangles in the file · {count(figures.body_count)}{" "}
        {figures.body_count === 1 ? "body" : "bodies"} ·{" "}
        <a className="text-fjord underline" href={`/api/parts/${plan.part.id}/file`} download>
          the file as it came
        </a>
      </p>
      <Faults figures={figures} />
      <Choices figures={figures} />
      <Thinning figures={figures} />
      <Bodies figures={figures} />
      <CutIt />
    </div>
  );
}
