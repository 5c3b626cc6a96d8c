import type { Material } from "../api/client";
import { grams } from "../format";
import type { BoardMachine, Orders } from "./useBoard";

type Change = NonNullable<BoardMachine["change"]>;

/**
 * Says what has to be changed on a machine before its next job begins, and how, step by step. The
 * job begins when a person presses the button that says it was done.
 */
export function ChangeCard({
  change,
  machine,
  materials,
  orders,
}: {
  change: Change;
  machine: BoardMachine;
  materials: Material[];
  orders: Orders;
}) {
  const hang = (body: { spool?: number; nozzle?: number }) =>
    orders.hungUp.mutate({ id: machine.id, body });
  const takeFrom = (spool: number) => orders.spool.mutate({ id: change.job, spool });
  const spools = materials.find((entry) => entry.id === change.material)?.spools ?? [];
  const busy = orders.hungUp.isPending || orders.spool.isPending;
  return (
    <section
      data-change={change.kind}
      aria-label={`Before job ${change.number} begins on ${machine.name}`}
      className="border-t border-hairline bg-paper p-3"
    >
      <p className="font-semibold text-look">▲ Waits: {change.words}.</p>
      {change.steps.length > 0 && (
        <ol className="my-1.5 list-decimal pl-5">
          {change.steps.map((step) => (
            <li key={step}>{step}</li>
          ))}
        </ol>
      )}
      {change.minutes > 0 && (
        <p className="narrow text-[13px] text-ink-2">
          {change.minutes} min{change.grams > 0 && `, ${grams(change.grams)} g`}; counted in
          the clock times below.
        </p>
      )}
      <div className="mt-1.5 flex flex-wrap gap-1.5">
        {change.kind === "spool" && change.spool !== null && (
          <button
            className="action"
            disabled={busy}
            onClick={() => hang({ spool: change.spool ?? 0 })}
          >
            {change.spool_label} is hung up
          </button>
        )}
        {change.kind === "nozzle" && change.nozzle !== null && (
          <button
            className="action"
            disabled={busy}
            onClick={() => hang({ nozzle: change.nozzle ?? 0 })}
          >
            It is fitted
          </button>
        )}
        {change.kind === "spool" &&
          change.spool === null &&
          spools.map((spool) => (
            <button
              key={spool.id}
              className="quiet"
              disabled={busy}
              onClick={() => hang({ spool: spool.id })}
            >
              {spool.label} is hung up
            </button>
          ))}
        {change.instead !== null && (
          <button
            className="quiet"
            disabled={busy}
            onClick={() => takeFrom(change.instead ?? 0)}
          >
            Take it from {change.instead_label}, which hangs there
          </button>
        )}
        {change.kind === "short" && (
          <>
            {spools
              .filter((spool) => spool.id !== change.spool)
              .map((spool) => (
                <button
                  key={spool.id}
                  className="quiet"
                  disabled={busy}
                  onClick={() => takeFrom(spool.id)}
                >
                  Take it from {spool.label}, {grams(spool.usable_mass)} g
                </button>
              ))}
            <button
              className="quiet"
              onClick={() =>
                orders.order.mutate({ id: change.job, body: { what: "begin-short" } })
              }
            >
              Begin all the same: somebody will change the spool
            </button>
          </>
        )}
      </div>
    </section>
  );
}
