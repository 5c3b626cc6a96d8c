import { useState } from "react";

import type { Schemas } from "../api/client";
import { useParts, usePlans } from "../api/hooks";
import { NumberField } from "../desk/panels/NumberField";
import { Sheet } from "../frame/Sheet";
import type { OrderDesk, OrderRow, OrderWish } from "./useOrderBook";

type Line = Schemas["LineAskRequest"];
const MOST_PIECES = 10_000;

/** A new order, or one that is changed. */
export function OrderSheet({
  order,
  first,
  desk,
  onClose,
}: {
  order: OrderRow | null;
  /** Lines of a new order that are there already. */
  first: Line[];
  desk: OrderDesk;
  onClose: () => void;
}) {
  const [wish, setWish] = useState<OrderWish>(() =>
    order
      ? {
          customer: order.customer,
          reference: order.reference,
          note: order.note,
          due: order.due,
          urgency: order.urgency,
          kits: order.kits,
        }
      : { customer: "", reference: "", note: "", due: null, urgency: 2, kits: 1 },
  );
  const [lines, setLines] = useState<Line[]>(
    () =>
      order?.lines.map((line) => ({
        part: line.part,
        pieces: line.pieces,
        plans: line.plans.map((plan) => plan.plan),
      })) ?? first,
  );
  const change = (body: OrderWish) => setWish({ ...wish, ...body });
  const error = order ? desk.change.error : desk.take.error;
  const busy = desk.change.isPending || desk.take.isPending;
  const keep = () => {
    const body = { ...wish, lines };
    if (order) desk.change.mutate({ id: order.id, body }, { onSuccess: onClose });
    else desk.take.mutate(body, { onSuccess: onClose });
  };
  return (
    <Sheet title={order ? `Change ${order.title}` : "New order"} onClose={onClose} wide>
      <form
        className="mt-3 flex flex-col gap-3"
        onSubmit={(event) => {
          event.preventDefault();
          keep();
        }}
      >
        <div className="grid grid-cols-2 gap-3">
          <Text
            label="Customer"
            value={wish.customer}
            onValue={(customer) => change({ customer })}
          />
          <Text
            label="Reference"
            value={wish.reference}
            onValue={(reference) => change({ reference })}
          />
          <label className="flex flex-col text-[13px] text-ink-2">
            Due (on this computer's clock)
            <input
              type="datetime-local"
              className="field"
              value={local(wish.due)}
              onChange={(event) =>
                change({
                  due: event.target.value ? new Date(event.target.value).toISOString() : null,
                })
              }
            />
          </label>
          <fieldset className="text-[13px] text-ink-2">
            <legend>Urgency</legend>
            {(["can wait", "normal", "urgent"] as const).map((word, k) => (
              <button
                key={word}
                type="button"
                className="quiet"
                aria-pressed={wish.urgency === k + 1}
                onClick={() => change({ urgency: k + 1 })}
              >
                {word}
              </button>
            ))}
          </fieldset>
        </div>
        <Lines lines={lines} onLines={setLines} />
        <label className="flex items-center gap-2 text-[13px]">
          <span className="text-ink-2">All of this</span>
          <NumberField
            label="Kits"
            unit="times (kits)"
            value={wish.kits ?? 1}
            min={1}
            max={MOST_PIECES}
            step={1}
            width="w-16"
            onValue={(kits) => kits !== null && change({ kits: Math.round(kits) })}
          />
        </label>
        <Text label="Note" value={wish.note} onValue={(note) => change({ note })} />
        {error && (
          <p role="alert" className="text-stop">
            {error.message}
          </p>
        )}
        <div className="flex gap-2">
          <button className="action" disabled={busy || lines.length === 0}>
            {order ? "Keep" : "Take the order"}
          </button>
          <button type="button" className="quiet" onClick={onClose}>
            Leave it
          </button>
        </div>
      </form>
    </Sheet>
  );
}

function Lines({ lines, onLines }: { lines: Line[]; onLines: (lines: Line[]) => void }) {
  const parts = useParts();
  const set = (k: number, line: Partial<Line>) =>
    onLines(lines.map((old, n) => (n === k ? { ...old, ...line } : old)));
  const free = (parts.data ?? []).filter((part) => !lines.some((l) => l.part === part.id));
  return (
    <fieldset className="border border-hairline p-2">
      <legend className="px-1 text-[13px] text-ink-2">Parts of a kit</legend>
      {lines.map((line, k) => {
        const name = parts.data?.find((part) => part.id === line.part)?.name ?? "part";
        return (
          <div key={line.part} className="border-b border-hairline py-2 last:border-b-0">
            <div className="flex items-center gap-3">
              <NumberField
                label={`Pieces of ${name}`}
                unit="×"
                value={line.pieces}
                min={1}
                max={MOST_PIECES}
                step={1}
                width="w-16"
                onValue={(value) => value !== null && set(k, { pieces: Math.round(value) })}
              />
              <b>{name}</b>
              <button
                type="button"
                className="quiet ml-auto"
                aria-label={`Remove ${name}`}
                onClick={() => onLines(lines.filter((_, n) => n !== k))}
              >
                remove
              </button>
            </div>
            <PlansOf
              part={line.part}
              chosen={line.plans ?? []}
              onChosen={(plans) => set(k, { plans })}
            />
          </div>
        );
      })}
      <select
        className="field mt-2"
        aria-label="Add a part"
        value=""
        onChange={(event) =>
          onLines([...lines, { part: Number(event.target.value), pieces: 1, plans: [] }])
        }
      >
        <option value="">Add a part …</option>
        {free.map((part) => (
          <option key={part.id} value={part.id}>
            {part.name}
          </option>
        ))}
      </select>
    </fieldset>
  );
}

/** The plans of a part; none chosen means the newest for each nozzle. */
function PlansOf({
  part,
  chosen,
  onChosen,
}: {
  part: number;
  chosen: number[];
  onChosen: (plans: number[]) => void;
}) {
  const plans = usePlans({ part });
  if (!plans.data) return null;
  if (plans.data.length === 0)
    return (
      <p className="text-[12px] text-look">
        ▲ It has no plan yet; it is scheduled once one is computed.
      </p>
    );
  return (
    <p className="flex flex-wrap gap-x-4 text-[13px]">
      {plans.data.map((plan) => (
        <label key={plan.id} className="inline-flex items-center gap-1">
          <input
            type="checkbox"
            checked={chosen.includes(plan.id)}
            onChange={() =>
              onChosen(
                chosen.includes(plan.id)
                  ? chosen.filter((id) => id !== plan.id)
                  : [...chosen, plan.id],
              )
            }
          />
          plan {plan.number}, {plan.machine}
        </label>
      ))}
      <span className="text-[12px] text-ink-2">
        {chosen.length === 0 && "none ticked: the newest for each nozzle is used"}
      </span>
    </p>
  );
}

function Text({
  label,
  value,
  onValue,
}: {
  label: string;
  value: string | undefined;
  onValue: (value: string) => void;
}) {
  return (
    <label className="flex flex-col text-[13px] text-ink-2">
      {label}
      <input
        className="field text-ink"
        maxLength={label === "Note" ? 2000 : 120}
        value={value ?? ""}
        onChange={(event) => onValue(event.target.value)}
      />
    </label>
  );
}

/** A moment as the browser's field for it has it. */
function local(iso: string | null | undefined): string {
  if (!iso) return "";
  const time = new Date(iso);
  return new Date(time.getTime() - 60_000 * time.getTimezoneOffset())
    .toISOString()
    .slice(0, 16);
}
