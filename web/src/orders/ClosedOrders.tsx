import { Link } from "react-router";

import { when } from "../format";
import { Message } from "../frame/Message";
import { useOrderBook, useOrderDesk } from "./useOrderBook";
import { pieces } from "./words";

/** Orders that were delivered or cancelled, the newest first. */
export function ClosedOrders() {
  const orders = useOrderBook(true);
  const desk = useOrderDesk();
  if (orders.isPending) return <Message title="Closed orders" text="Fetching them …" />;
  if (!orders.data)
    return (
      <Message
        title="Closed orders"
        text={orders.error.message}
        again={() => void orders.refetch()}
      />
    );
  return (
    <main className="mx-auto max-w-5xl p-5">
      <header className="mb-3 flex items-baseline gap-4">
        <h1 className="text-2xl font-semibold">Closed orders</h1>
        <Link className="quiet ml-auto" to="/orders">
          Open orders
        </Link>
      </header>
      {desk.close.error && (
        <p role="alert" className="mb-2 text-stop">
          {desk.close.error.message}
        </p>
      )}
      {orders.data.length === 0 ? (
        <p className="card p-6 text-ink-2">No order was closed yet.</p>
      ) : (
        <table className="card w-full border-collapse">
          <thead>
            <tr className="narrow text-left text-[13px] text-ink-3">
              <th className="p-2">order</th>
              <th className="p-2">pieces</th>
              <th className="p-2">closed</th>
              <th className="p-2 text-right">price</th>
              <th className="p-2" />
            </tr>
          </thead>
          <tbody>
            {orders.data.map((order) => {
              const { good, wanted } = pieces(order);
              return (
                <tr key={order.id} className="border-t border-hairline">
                  <td className="p-2 font-semibold">{order.title}</td>
                  <td className="p-2">
                    {good} of {wanted} good
                  </td>
                  <td className="p-2">
                    {order.closed}
                    {order.closed_at && `, ${when(order.closed_at)}`}
                  </td>
                  <td className="p-2 text-right">{order.price ? `${order.price} €` : "–"}</td>
                  <td className="p-2 text-right">
                    <button
                      className="quiet"
                      onClick={() => desk.close.mutate({ id: order.id, how: "open" })}
                    >
                      Open again
                    </button>
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      )}
    </main>
  );
}
