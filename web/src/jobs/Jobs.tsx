import { useEffect } from "react";
import { Link, useParams, useSearchParams } from "react-router";

import { useMaterials } from "../api/hooks";
import { Message } from "../frame/Message";
import { Ended } from "./Ended";
import { FarBoard } from "./FarBoard";
import { MachineColumn } from "./MachineColumn";
import { useBoard, useOrders } from "./useBoard";

/**
 * The board: a column for each machine, what ended last below; and the same in large type, to be
 * read from across a room.
 */
export function Jobs() {
  const board = useBoard();
  const materials = useMaterials();
  const orders = useOrders();
  const [search] = useSearchParams();
  const wanted = Number(useParams().id);
  const there = [
    ...(board.data?.machines.flatMap((machine) => machine.jobs) ?? []),
    ...(board.data?.ended ?? []),
  ].find((job) => job.id === wanted)?.number;
  useEffect(() => {
    if (there !== undefined)
      document.querySelector(`[data-job="${there}"]`)?.scrollIntoView({ block: "center" });
  }, [there]);
  if (board.isPending) return <Message title="Jobs" text="Fetching the jobs …" />;
  if (!board.data)
    return (
      <Message title="Jobs" text={board.error.message} again={() => void board.refetch()} />
    );
  if (search.has("far")) return <FarBoard board={board.data} />;
  const wrong = Object.values(orders)
    .map((one) => one.error)
    .find(Boolean);
  return (
    <main className="p-4">
      <header className="mb-3 flex flex-wrap items-baseline gap-x-4">
        <h1 className="text-2xl font-semibold">Jobs</h1>
        <p className="text-ink-2">
          Committed plans on their machines. Drag what waits to another place; clock times
          follow.
        </p>
        <Link className="quiet ml-auto" to="/jobs?far">
          Large type
        </Link>
      </header>
      {board.error && (
        <p role="status" className="mb-2 text-look">
          ▲ The service does not answer; the board shows what was last known.
        </p>
      )}
      {wrong && (
        <p role="alert" className="mb-2 text-stop">
          {wrong.message}{" "}
          <button
            className="quiet"
            onClick={() => Object.values(orders).forEach((one) => one.reset())}
          >
            Close
          </button>
        </p>
      )}
      {board.data.machines.length === 0 && (
        <p className="card p-4 text-ink-2">There is no machine yet; the Workshop makes one.</p>
      )}
      <div className="grid grid-cols-[repeat(auto-fit,minmax(330px,1fr))] items-stretch gap-3">
        {board.data.machines.map((machine) => (
          <MachineColumn
            key={machine.id}
            machine={machine}
            orders={orders}
            materials={materials.data ?? []}
          />
        ))}
      </div>
      <Ended jobs={board.data.ended} orders={orders} />
    </main>
  );
}
