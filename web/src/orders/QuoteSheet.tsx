import { useQuery } from "@tanstack/react-query";

import { api, data, type Schemas } from "../api/client";
import { grams } from "../format";
import { Sheet } from "../frame/Sheet";
import type { OrderDesk, OrderRow, Outlook } from "./useOrderBook";
import { moment } from "./words";

/** What an order costs, amount by amount, and what the customer is promised. */
export function QuoteSheet({
  order,
  outlook,
  zone,
  desk,
  onClose,
}: {
  order: OrderRow;
  outlook: Outlook | undefined;
  zone: string;
  desk: OrderDesk;
  onClose: () => void;
}) {
  const quote = useQuery({
    queryKey: ["quote", order.id],
    queryFn: () =>
      data(api.GET("/api/orders/{id}/quote", { params: { path: { id: order.id } } })),
    refetchOnMount: "always",
  });
  const promise = outlook?.promise ?? null;
  return (
    <Sheet title={`Quote for ${order.title}`} onClose={onClose} wide>
      {quote.isPending && <p className="mt-2 text-ink-2">Reckoning …</p>}
      {quote.error && (
        <p role="alert" className="mt-2 text-stop">
          {quote.error.message}
        </p>
      )}
      {quote.data && (
        <>
          <p className="mt-2 text-3xl font-semibold">
            {quote.data.missing.length > 0 ? "no price yet" : `${quote.data.total} €`}
          </p>
          {quote.data.missing.length > 0 && (
            <p className="text-look">
              ▲ {quote.data.missing.join(", ")}: no plan has the times of its beds yet. Plan
              the part, or choose another plan for it.
            </p>
          )}
          {!order.closed && quote.data.missing.length === 0 && (
            <p className="mt-2 flex flex-wrap items-center gap-2">
              <button
                className="action"
                disabled={desk.promise.isPending}
                onClick={() => desk.promise.mutate({ id: order.id, promised: promise })}
              >
                Keep this as promised
              </button>
              <span className="text-[13px] text-ink-2">
                {promise
                  ? `by ${moment(promise, zone)}, which is kept in 95 of 100 cases`
                  : "without a time: not all of it can be printed"}
              </span>
            </p>
          )}
          {order.price && (
            <p role="status" className="mt-1 text-[13px]">
              Promised to the customer: {order.price} €
              {order.promised && `, ${moment(order.promised, zone)}`}.
            </p>
          )}
          {desk.promise.error && (
            <p role="alert" className="text-stop">
              {desk.promise.error.message}
            </p>
          )}
          {quote.data.parts.map((part) => (
            <section key={part.name} className="mt-3">
              <h3 className="font-semibold">
                {part.pieces} × {part.name}: {part.total} €, {part.each} € each
              </h3>
              <p className="text-[13px] text-ink-2">
                {part.beds} {part.beds === 1 ? "bed" : "beds"} of up to {part.a_bed} on{" "}
                {part.machine}, {part.hours.toFixed(1)} h, {grams(part.grams)} g
              </p>
              <Terms terms={part.terms} />
              <p className="text-[13px] text-ink-2">
                A piece, if this part alone were ordered, by number:{" "}
                {part.by_number.map((one) => `${one.pieces}: ${one.each} €`).join(" · ")}
              </p>
            </section>
          ))}
          <section className="mt-3">
            <h3 className="font-semibold">For the order</h3>
            <Terms terms={quote.data.terms} />
          </section>
          <p className="mt-2 text-[12px] text-ink-2">
            Every amount is rounded to the cent, half a cent upwards; the total is their sum.
          </p>
        </>
      )}
    </Sheet>
  );
}

function Terms({ terms }: { terms: Schemas["Term"][] }) {
  return (
    <table className="w-full border-collapse text-[13px]">
      <tbody>
        {terms.map((term) => (
          <tr key={term.name} className="border-t border-hairline">
            <td className="py-1 pr-3">{term.name}</td>
            <td className="py-1 pr-3 text-ink-2">{term.words}</td>
            <td className="py-1 text-right whitespace-nowrap">{term.amount} €</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
