import { clsx } from "clsx";

import { isBad, lateness, moment, pieces, standing } from "./words";
import type { OrderRow, Timetable } from "./useOrderBook";

/** Open orders: what is good so far, when each is done, and what can be promised. */
export function OrderTable({
  orders,
  table,
  chosen,
  onChoose,
  onChange,
  onQuote,
  onClose,
}: {
  orders: OrderRow[];
  table: Timetable;
  chosen: number | null;
  onChoose: (order: number | null) => void;
  onChange: (order: OrderRow) => void;
  onQuote: (order: OrderRow) => void;
  onClose: (order: OrderRow) => void;
}) {
  const outlooks = new Map(table.orders.map((one) => [one.order, one]));
  return (
    <table className="card w-full border-collapse">
      <thead>
        <tr className="narrow text-left text-[13px] text-ink-3">
          <th className="p-2">order</th>
          <th className="p-2">pieces</th>
          <th className="p-2">done</th>
          <th className="p-2">can be promised</th>
          <th className="p-2" />
        </tr>
      </thead>
      <tbody>
        {orders.map((order) => {
          const outlook = outlooks.get(order.id);
          const bad = isBad(outlook);
          const { good, wanted } = pieces(order);
          return (
            <tr
              key={order.id}
              className={clsx(
                "border-t border-hairline align-top",
                chosen === order.id ? "bg-paper" : "hover:bg-paper",
              )}
            >
              <td className="p-2">
                <button
                  className="word text-left font-semibold"
                  aria-pressed={chosen === order.id}
                  title="show its beds on the clock"
                  onClick={() => onChoose(chosen === order.id ? null : order.id)}
                >
                  {order.title}
                </button>
                <span className="block text-[12px] text-ink-2">
                  no. {order.number}
                  {order.urgency === 3 && " · urgent"}
                  {order.urgency === 1 && " · can wait"}
                  {order.price && ` · ${order.price} €`}
                </span>
              </td>
              <td className="p-2">
                <span className="font-semibold">
                  {good} of {wanted} good
                </span>
                {order.lines.map((line) => (
                  <span key={line.id} className="block text-[12px] text-ink-2">
                    {line.wanted} × {line.name}: {standing(line)}
                    {line.plans
                      .filter((plan) => plan.why)
                      .map((plan) => (
                        <span
                          key={plan.plan}
                          className={clsx("block", !plan.computing && "text-look")}
                        >
                          {plan.computing ? "… " : "▲ "}plan {plan.number}: {plan.why}
                        </span>
                      ))}
                  </span>
                ))}
                {bad &&
                  outlook?.lacking.map((words) => (
                    <span key={words} className="block text-[12px] text-stop">
                      ◆ {words}
                    </span>
                  ))}
              </td>
              <td className="p-2 whitespace-nowrap">
                {order.done
                  ? "all good"
                  : outlook?.done
                    ? moment(outlook.done, table.zone)
                    : "–"}
                {!order.done && (
                  <span
                    className={clsx(
                      "block text-[12px]",
                      bad ? "font-semibold text-stop" : "text-ink-2",
                    )}
                  >
                    {bad && "◆ "}
                    {lateness(outlook)}
                  </span>
                )}
                <span className="block text-[12px] text-ink-2">
                  {order.due && `due ${moment(order.due, table.zone)}`}
                </span>
              </td>
              <td className="p-2 whitespace-nowrap">
                {outlook?.promise ? moment(outlook.promise, table.zone) : "–"}
                <span className="block text-[12px] text-ink-2">
                  {outlook?.promise ? "with 95 %" : ""}
                </span>
                <span className="block text-[12px] text-ink-2">
                  {outlook?.on_time != null &&
                    `on time with ${Math.round(100 * outlook.on_time)} %`}
                  {order.promised && ` · promised ${moment(order.promised, table.zone)}`}
                </span>
              </td>
              <td className="w-20 p-2">
                <span className="flex flex-col gap-1">
                  <button className="quiet" onClick={() => onQuote(order)}>
                    Quote
                  </button>
                  <button className="quiet" onClick={() => onChange(order)}>
                    Change
                  </button>
                  <button className="quiet" onClick={() => onClose(order)}>
                    Close
                  </button>
                </span>
              </td>
            </tr>
          );
        })}
      </tbody>
    </table>
  );
}
