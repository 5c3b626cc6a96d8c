import type { Material } from "../api/client";
import { ChangeCard } from "./ChangeCard";
import { Queue } from "./Queue";
import { Running } from "./Running";
import type { BoardMachine, Orders } from "./useBoard";
import { clock } from "./words";

const ACTIVE = ["sending", "heating", "printing", "paused"];

/** One machine: how it is, what is on it, what waits for it. */
export function MachineColumn({
  machine,
  orders,
  materials,
}: {
  machine: BoardMachine;
  orders: Orders;
  materials: Material[];
}) {
  const on = machine.jobs.filter((job) => ACTIVE.includes(job.state));
  const waiting = machine.jobs.filter((job) => job.state === "queued");
  const { state, change, unattended } = machine;
  const onBed = machine.trouble.includes("bed");
  return (
    <section
      data-machine={machine.name}
      aria-label={machine.name}
      className="card flex min-w-0 flex-col"
    >
      <header className="p-3 pb-2">
        <h2 className="text-lg leading-tight font-semibold">{machine.name}</h2>
        <p className="narrow text-[13px] text-ink-2">
          {machine.kind === "none"
            ? "files are carried to it by hand"
            : machine.kind === "folder"
              ? "files go to a drive"
              : state
                ? `${state.phase === "idle" ? "free" : state.phase} · nozzle ` +
                  `${Math.round(state.nozzle)} °C, bed ${Math.round(state.bed)} °C`
                : "not heard from yet"}
          {machine.loaded ? (
            <span
              title={
                machine.loaded_since
                  ? `since ${clock(machine.loaded_since)}` +
                    (machine.loaded_by && `, said by ${machine.loaded_by}`)
                  : undefined
              }
            >
              {" "}
              · {machine.loaded} hangs there
            </span>
          ) : (
            " · nobody has said what hangs there"
          )}
          {state &&
            state.factor > 1 &&
            ` · simulated, ${Math.round(state.factor)} times as fast`}
        </p>
        {machine.error && (
          <p role="status" className="mt-1 text-look">
            ▲ No answer{machine.lost && ` since ${clock(machine.lost)}`}. What it does is found
            out when it answers again.
          </p>
        )}
        {!machine.error && machine.trouble && machine.trouble !== change?.words && (
          <p role="status" className="mt-1 text-look">
            ▲ {machine.trouble}{" "}
            {onBed && (
              <button
                className="quiet"
                disabled={orders.clear.isPending}
                onClick={() => orders.clear.mutate(machine.id)}
              >
                Bed is clear
              </button>
            )}
          </p>
        )}
      </header>
      {on.map((job) => (
        <Running
          key={job.id}
          job={job}
          machine={machine}
          orders={orders}
          materials={materials}
        />
      ))}
      {change && !machine.held && (
        <ChangeCard change={change} machine={machine} materials={materials} orders={orders} />
      )}
      {waiting.length > 1 && (
        <p
          data-unattended
          className="flex flex-wrap gap-2 border-t border-hairline px-3 py-1.5 text-[13px]"
        >
          <span>
            <b>
              {unattended.count} of {unattended.waiting}
            </b>{" "}
            without a hand{!change && unattended.then && `; then ${unattended.then}`}.
          </span>
          {machine.fewer && (
            <button className="quiet" onClick={() => orders.regroup.mutate(machine.id)}>
              Like with like: {machine.fewer.least} instead of {machine.fewer.now} changes of
              spool
            </button>
          )}
        </p>
      )}
      {waiting.length > 0 && <Queue jobs={waiting} machine={machine} orders={orders} />}
      {machine.jobs.length === 0 && (
        <p className="border-t border-hairline p-3 text-ink-2">
          Nothing waits for it. “Commit job …” on a plan's desk sends it something.
        </p>
      )}
      <footer className="mt-auto flex items-center gap-2 border-t border-hairline p-2 text-[13px]">
        <span className="text-ink-2">
          {machine.jobs.length ? `free at ${clock(machine.free_at)}` : "free now"}
        </span>
        <button
          className="quiet ml-auto"
          aria-pressed={machine.held}
          onClick={() => orders.hold.mutate({ id: machine.id, held: !machine.held })}
        >
          {machine.held ? "queue is held" : "hold the queue"}
        </button>
      </footer>
    </section>
  );
}
