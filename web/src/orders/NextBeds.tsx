import { useState } from "react";

import { NumberField } from "../desk/panels/NumberField";
import { grams, hours } from "../format";
import type { OrderDesk, OrderRow, ScheduledBed, Timetable } from "./useOrderBook";
import { clock, moment } from "./words";

/** How many beds are listed; the clock shows all of them. */
const MOST = 8;

/** What a person does next: which bed is made ready on which machine, and when. */
export function NextBeds({
  table,
  orders,
  chosen,
  onChoose,
  desk,
  onMade,
}: {
  table: Timetable;
  orders: OrderRow[];
  chosen: ScheduledBed | null;
  onChoose: (bed: ScheduledBed | null) => void;
  desk: OrderDesk;
  onMade: (bed: number) => void;
}) {
  const shown = table.beds.slice(0, MOST);
  const all = chosen && !shown.includes(chosen) ? [chosen, ...shown] : shown;
  const machine = new Map(table.machines.map((one) => [one.id, one.name]));
  return (
    <section className="card p-3" aria-label="Next beds">
      <h2 className="text-lg font-semibold">Next beds</h2>
      {all.length === 0 && (
        <p className="text-[13px] text-ink-2">
          Nothing is left to be scheduled. Beds that were made are under Beds, jobs under Jobs.
        </p>
      )}
      <ul>
        {all.map((bed) => (
          <li
            key={`${bed.line} ${bed.begin} ${bed.machine}`}
            className="border-t border-hairline py-2 first:border-t-0"
          >
            <button
              className="w-full border-0 bg-transparent p-0 text-left"
              aria-pressed={bed === chosen}
              onClick={() => onChoose(bed === chosen ? null : bed)}
            >
              <span className="flex items-baseline gap-2">
                <b className="text-[15px]">{moment(bed.begin, table.zone)}</b>
                <span>{machine.get(bed.machine)}</span>
                <span className="ml-auto text-[13px]">
                  {bed.pieces} × {bed.part}
                </span>
              </span>
              <span className="block text-[12px] text-ink-2">{steps(bed, table)}</span>
            </button>
            {bed === chosen && (
              <ChosenBed
                key={`${bed.line} ${bed.begin} ${bed.machine}`}
                bed={bed}
                table={table}
                order={orders.find((one) => one.id === bed.order)}
                desk={desk}
                onMade={onMade}
              />
            )}
          </li>
        ))}
      </ul>
      {table.beds.length > MOST && (
        <p className="text-[12px] text-ink-2">
          and {table.beds.length - MOST} later ones, on the clock
        </p>
      )}
    </section>
  );
}

/** A bed of the schedule: it can be made as it is, or with other pieces or on another machine. */
function ChosenBed({
  bed,
  table,
  order,
  desk,
  onMade,
}: {
  bed: ScheduledBed;
  table: Timetable;
  order: OrderRow | undefined;
  desk: OrderDesk;
  onMade: (bed: number) => void;
}) {
  const [pieces, setPieces] = useState(bed.pieces);
  const [plan, setPlan] = useState(bed.plan);
  const line = order?.lines.find((one) => one.id === bed.line);
  const plans = line?.plans.filter((one) => one.why === "") ?? [];
  const most = plans.find((one) => one.plan === plan)?.holds ?? bed.pieces;
  const make = () => {
    const { line, begin } = bed;
    // on another machine it is printed from the spool that hangs there
    const spool = plan === bed.plan ? bed.spool : null;
    desk.release.mutate(
      { line, begin, plan, pieces, spool },
      { onSuccess: (made) => onMade(made.bed) },
    );
  };
  return (
    <div className="mt-1 flex flex-col gap-1 text-[13px]">
      <p>
        For {order?.title}. {hours(bed.seconds)} h on the machine, {grams(bed.grams)} g from{" "}
        {bed.spool_label}; its pieces are off at {moment(bed.off, table.zone)}.
      </p>
      <p className="flex flex-wrap items-center gap-2">
        <NumberField
          label="Pieces on this bed"
          unit="pieces"
          value={pieces}
          min={1}
          max={most}
          step={1}
          width="w-14"
          onValue={(value) => value !== null && setPieces(Math.round(value))}
        />
        {plans.length > 1 && (
          <select
            className="field"
            aria-label="On which machine"
            value={plan}
            onChange={(event) => setPlan(Number(event.target.value))}
          >
            {plans.map((one) => (
              <option key={one.plan} value={one.plan}>
                {one.machine}, plan {one.number}
              </option>
            ))}
          </select>
        )}
      </p>
      <p>
        <button
          className="action"
          disabled={desk.release.isPending || pieces > most}
          onClick={make}
        >
          Make this bed
        </button>{" "}
        <span className="text-[12px] text-ink-2">
          It keeps its place, and is printed once you have looked at it and committed it.
        </span>
      </p>
      {desk.release.error && (
        <p role="alert" className="text-stop">
          {desk.release.error.message}
        </p>
      )}
    </div>
  );
}

/** What is done by hand before a bed begins. */
function steps(bed: ScheduledBed, table: Timetable): string {
  const said = [
    bed.cleared && "clear the bed",
    bed.changed && `hang up ${bed.spool_label}`,
  ].filter(Boolean);
  if (said.length === 0) return `${bed.spool_label} hangs there, nothing to do by hand`;
  return `${clock(bed.hands, table.zone)}: ${said.join(", ")}`;
}
