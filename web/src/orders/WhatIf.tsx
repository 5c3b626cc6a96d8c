import { useState } from "react";

import { useMaterials } from "../api/hooks";
import { NumberField } from "../desk/panels/NumberField";
import type { OrderDesk, OrderRow, Timetable } from "./useOrderBook";
import { lasting, moment } from "./words";

/** When orders would be done with a machine more, longer hours or another spool. */
export function WhatIf({
  table,
  orders,
  desk,
}: {
  table: Timetable;
  orders: OrderRow[];
  desk: OrderDesk;
}) {
  const materials = useMaterials();
  const [like, setLike] = useState<number | null>(null);
  const [until, setUntil] = useState("");
  const [weekend, setWeekend] = useState(false);
  const [spool, setSpool] = useState<number | null>(null);
  const [grams, setGrams] = useState(1000);
  const always = table.there.length === 0;
  const title = new Map(orders.map((one) => [one.id, one.title]));
  const answer = desk.whatIf.data;
  const nothing = like === null && !until && !weekend && spool === null;
  return (
    <section className="card p-3" aria-label="What if">
      <h2 className="text-lg font-semibold">What if …</h2>
      <form
        className="flex flex-col gap-2 text-[13px]"
        onSubmit={(event) => {
          event.preventDefault();
          desk.whatIf.mutate({
            like,
            until: until || null,
            weekend,
            ...(spool === null ? {} : { material: spool, spool_g: grams }),
          });
        }}
      >
        <label className="flex items-center gap-2">
          one more machine like
          <select
            className="field"
            aria-label="One more machine like"
            value={like ?? ""}
            onChange={(event) =>
              setLike(event.target.value ? Number(event.target.value) : null)
            }
          >
            <option value="">none</option>
            {table.machines.map((machine) => (
              <option key={machine.id} value={machine.id}>
                {machine.name}
              </option>
            ))}
          </select>
        </label>
        <label className="flex items-center gap-2">
          somebody there until
          <input
            type="time"
            className="field"
            disabled={always}
            value={until}
            onChange={(event) => setUntil(event.target.value)}
          />
          {always && <span className="text-ink-2">somebody always is</span>}
        </label>
        <label className="flex items-center gap-2">
          <input
            type="checkbox"
            disabled={always}
            checked={weekend}
            onChange={(event) => setWeekend(event.target.checked)}
          />
          somebody there on Saturday and Sunday
        </label>
        <span className="flex flex-wrap items-center gap-2">
          another spool of
          <select
            className="field"
            aria-label="Another spool of"
            value={spool ?? ""}
            onChange={(event) =>
              setSpool(event.target.value ? Number(event.target.value) : null)
            }
          >
            <option value="">none</option>
            {materials.data?.map((material) => (
              <option key={material.id} value={material.id}>
                {material.name}
              </option>
            ))}
          </select>
          {spool !== null && (
            <NumberField
              label="Filament on it"
              unit="g"
              value={grams}
              min={1}
              max={100_000}
              step={50}
              width="w-16"
              onValue={(value) => value !== null && setGrams(value)}
            />
          )}
        </span>
        <button className="quiet" disabled={nothing || desk.whatIf.isPending}>
          {desk.whatIf.isPending ? "Trying …" : "Try it"}
        </button>
      </form>
      {desk.whatIf.error && (
        <p role="alert" className="mt-1 text-[13px] text-stop">
          {desk.whatIf.error.message}
        </p>
      )}
      {answer && (
        <div role="status" className="mt-2">
          <p className="font-semibold">{answer.words}</p>
          <p className="text-[12px] text-ink-2">Both sides are searched for quickly.</p>
          <table className="w-full text-[12px]">
            <thead>
              <tr className="text-left text-ink-3">
                <th>order</th>
                <th>as it is</th>
                <th>then</th>
              </tr>
            </thead>
            <tbody>
              {answer.orders.map((one) => (
                <tr key={one.order} className="border-t border-hairline">
                  <td className="py-0.5">{title.get(one.order)}</td>
                  <td>{one.now ? moment(one.now, table.zone) : "not all of it"}</td>
                  <td>
                    {one.then ? moment(one.then, table.zone) : "not all of it"}
                    {one.now && one.then && gained(one.now, one.then)}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </div>
      )}
    </section>
  );
}

function gained(now: string, then: string): string {
  const seconds = (new Date(now).getTime() - new Date(then).getTime()) / 1000;
  if (Math.abs(seconds) < 60) return "";
  return seconds > 0 ? `, ${lasting(seconds)} earlier` : `, ${lasting(-seconds)} later`;
}
