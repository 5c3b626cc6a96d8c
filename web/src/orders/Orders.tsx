import { useState } from "react";
import { Link, useNavigate, useSearchParams } from "react-router";

import { Message } from "../frame/Message";
import { Sheet } from "../frame/Sheet";
import { useKept } from "../frame/useKept";
import { grams } from "../format";
import { Clock } from "./Clock";
import { ImportSheet } from "./ImportSheet";
import { NextBeds } from "./NextBeds";
import { OrderSheet } from "./OrderSheet";
import { OrderTable } from "./OrderTable";
import { QuoteSheet } from "./QuoteSheet";
import {
  type OrderDesk,
  type OrderRow,
  type Outlook,
  type ScheduledBed,
  type Timetable,
  useOrderBook,
  useOrderDesk,
  useTimetable,
} from "./useOrderBook";
import { WhatIf } from "./WhatIf";
import { isBad, moment } from "./words";

const SPANS = [
  [1, "24 hours"],
  [3, "3 days"],
  [7, "a week"],
  [14, "14 days"],
] as const;
const isSpan = (value: unknown): value is number => SPANS.some(([days]) => days === value);

/** Orders, and which bed is printed on which machine and when. */
export function Orders() {
  const orders = useOrderBook();
  const table = useTimetable();
  const desk = useOrderDesk();
  const navigate = useNavigate();
  const [search, setSearch] = useSearchParams();
  const [days, setDays] = useKept("orders.days", 3, isSpan);
  const [chosen, setChosen] = useState<ScheduledBed | null>(null);
  const [order, setOrder] = useState<number | null>(null);
  const [changed, setChanged] = useState<OrderRow | null>(null);
  const [quoted, setQuoted] = useState<number | null>(null);
  const [ending, setEnding] = useState<OrderRow | null>(null);
  const sheet = search.get("sheet");
  const shut = () => setSearch({});
  if (orders.isPending) return <Message title="Orders" text="Fetching the orders …" />;
  if (!orders.data)
    return (
      <Message
        title="Orders"
        text={orders.error.message}
        again={() => void orders.refetch()}
      />
    );
  const now = table.data;
  const late = new Set(now?.orders.filter(isBad).map((one) => one.order));
  // the schedule may have been searched for anew: the same bed is another object then
  const bed = now?.beds.find((one) => chosen && same(one, chosen)) ?? null;
  const first = (search.get("parts") ?? "")
    .split(",")
    .map(Number)
    .filter((part) => part > 0)
    .map((part) => ({ part, pieces: 1, plans: [] }));
  const asked = orders.data.find((one) => one.id === quoted);
  return (
    <main className="flex flex-col gap-3 p-4">
      <header className="flex flex-wrap items-baseline gap-x-4 gap-y-1">
        <h1 className="text-2xl font-semibold">Orders</h1>
        {orders.data.length > 0 && now && (
          <p>
            <b className="text-lg">{summary(orders.data, now)}</b>
          </p>
        )}
        <span className="ml-auto flex gap-2">
          <Link className="quiet" to="/orders/closed">
            Closed orders
          </Link>
          <button className="quiet" onClick={() => setSearch({ sheet: "table" })}>
            From a table …
          </button>
          <button className="action" onClick={() => setSearch({ sheet: "new" })}>
            New order …
          </button>
        </span>
      </header>
      {orders.data.length === 0 ? (
        <div className="card max-w-3xl p-6 text-ink-2">
          <p>
            No open orders. An order is so many good pieces of some parts until a time. Its
            beds are put on machines along the clock, by the hours at which{" "}
            <Link className="text-fjord underline" to="/workshop?page=hours">
              somebody is there
            </Link>
            , the spools that hang there and what waits already; you see by when it can be
            promised, and what it costs.
          </p>
          <p className="mt-2">
            Take one here, or tick plans under{" "}
            <Link className="text-fjord underline" to="/plans">
              Plans
            </Link>{" "}
            and choose “Order pieces”.
          </p>
        </div>
      ) : (
        <>
          {table.error && (
            <p role="alert" className="text-stop">
              {table.error.message}
            </p>
          )}
          {now && (
            <section className="card p-3" aria-label="Machines along the clock">
              <SearchLine table={now} desk={desk}>
                {SPANS.map(([length, words]) => (
                  <button
                    key={length}
                    className="quiet"
                    aria-pressed={days === length}
                    onClick={() => setDays(length)}
                  >
                    {words}
                  </button>
                ))}
              </SearchLine>
              <Clock
                table={now}
                days={days}
                chosen={bed}
                order={order}
                late={late}
                onChoose={(one) => setChosen(one === bed ? null : one)}
              />
              <Legend always={now.there.length === 0} zone={now.zone} />
            </section>
          )}
          <div className="grid items-start gap-3 lg:grid-cols-[minmax(0,1fr)_340px]">
            <div className="flex min-w-0 flex-col gap-3 overflow-x-auto">
              {now && (
                <OrderTable
                  orders={orders.data}
                  table={now}
                  chosen={order}
                  onChoose={setOrder}
                  onChange={setChanged}
                  onQuote={(one) => setQuoted(one.id)}
                  onClose={setEnding}
                />
              )}
              {now && <Needed table={now} />}
            </div>
            {now && (
              <div className="flex flex-col gap-3">
                <NextBeds
                  table={now}
                  orders={orders.data}
                  chosen={bed}
                  onChoose={setChosen}
                  desk={desk}
                  onMade={(made) => void navigate(`/beds/${made}`)}
                />
                <WhatIf table={now} orders={orders.data} desk={desk} />
              </div>
            )}
          </div>
        </>
      )}
      {(sheet === "new" || first.length > 0) && (
        <OrderSheet order={null} first={first} desk={desk} onClose={shut} />
      )}
      {sheet === "table" && <ImportSheet desk={desk} onClose={shut} />}
      {changed && (
        <OrderSheet order={changed} first={[]} desk={desk} onClose={() => setChanged(null)} />
      )}
      {asked && (
        <QuoteSheet
          order={asked}
          outlook={now?.orders.find((one) => one.order === asked.id)}
          zone={now?.zone ?? "UTC"}
          desk={desk}
          onClose={() => setQuoted(null)}
        />
      )}
      {ending && <Ending order={ending} desk={desk} onDone={() => setEnding(null)} />}
    </main>
  );
}

const same = (one: ScheduledBed, other: ScheduledBed) =>
  one.line === other.line && one.machine === other.machine && one.begin === other.begin;

/** How it stands in a sentence. */
function summary(orders: OrderRow[], table: Timetable): string {
  const open = `${orders.length} open ${orders.length === 1 ? "order" : "orders"}`;
  const count = (state: Outlook["state"]) =>
    table.orders.filter((one) => one.state === state).length;
  const impossible = count("impossible");
  const bad =
    `, ${count("late") || "none"} late` +
    (impossible > 0 ? `, ${impossible} that cannot all be printed` : "");
  const busy = table.beds.length > 0 || table.machines.some((one) => one.busy.length > 0);
  return `${open}${bad}${busy ? `; machines are done ${moment(table.until, table.zone)}` : ""}`;
}

/** How the schedule was found, and what it changed; a better one can be searched for. */
function SearchLine({
  table,
  desk,
  children,
}: {
  table: Timetable;
  desk: OrderDesk;
  children: React.ReactNode;
}) {
  const search = table.searching;
  return (
    <div className="mb-2 flex flex-wrap items-center gap-2 text-[13px]">
      {children}
      <span className="ml-auto text-ink-2" role="status">
        {search
          ? `Searching for a better schedule, ${Math.round(100 * search.share)} %`
          : table.searched
            ? "Searched for"
            : "A first answer"}
        {table.failed && ` · the last search failed: ${table.failed}`}
      </span>
      {search ? (
        <button className="quiet" onClick={() => desk.stop.mutate()}>
          Stop
        </button>
      ) : (
        <button className="quiet" onClick={() => desk.search.mutate()}>
          Search again
        </button>
      )}
      {table.changes.length > 0 && (
        <p className="w-full text-ink-2">Since the one before: {table.changes.join("; ")}.</p>
      )}
    </div>
  );
}

function Legend({ always, zone }: { always: boolean; zone: string }) {
  const box = "inline-block h-3 w-5 align-middle mr-1";
  return (
    <p className="mt-2 flex flex-wrap gap-x-4 text-[12px] text-ink-2">
      <span>
        <i className={`${box} bg-ink`} />
        on the machine
      </span>
      <span>
        <i className={`${box} bg-ink-3`} />
        waits
      </span>
      <span>
        <i className={`${box} border border-dashed border-ink`} />
        made, to be committed
      </span>
      <span>
        <i className={`${box} border border-fjord`} />
        scheduled
      </span>
      <span>
        <i className={`${box} border border-stop`} />◆ its order is late
      </span>
      {!always && (
        <span>
          <i
            className={`${box} border border-hairline`}
            style={{
              backgroundImage:
                "repeating-linear-gradient(135deg, var(--color-edge) 0 1px, transparent 1px 4px)",
            }}
          />
          nobody is there
        </span>
      )}
      <span className="ml-auto">times of {zone}</span>
    </p>
  );
}

/** Filament that is needed by material, and what lacks. */
function Needed({ table }: { table: Timetable }) {
  if (table.needed.length === 0) return null;
  return (
    <section className="card p-3" aria-label="Filament needed">
      <h2 className="text-lg font-semibold">Filament still needed</h2>
      <table className="text-[13px]">
        <tbody>
          {table.needed.map((one) => {
            const lacks = one.needed_g - one.free_g;
            return (
              <tr key={one.material}>
                <td className="py-0.5 pr-4 font-semibold">{one.material}</td>
                <td className="pr-4">{grams(one.needed_g)} g needed</td>
                <td className="pr-4">{grams(one.free_g)} g free on spools</td>
                <td className={lacks > 0 ? "text-stop" : "text-ink-2"}>
                  {lacks > 0 ? `◆ buy ${grams(lacks)} g` : "enough"}
                </td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </section>
  );
}

function Ending({
  order,
  desk,
  onDone,
}: {
  order: OrderRow;
  desk: OrderDesk;
  onDone: () => void;
}) {
  const end = (how: "delivered" | "cancelled") =>
    desk.close.mutate({ id: order.id, how }, { onSuccess: onDone });
  return (
    <Sheet title={`Close ${order.title}`} onClose={onDone}>
      <p className="mt-2 text-[13px] text-ink-2">
        A closed order is not scheduled any more. What was printed for it stays, and it can be
        opened again.
      </p>
      {!order.done && (
        <p className="mt-1 text-[13px] text-look">
          ▲ Not all of its pieces are known to be good yet.
        </p>
      )}
      <p className="mt-3 flex gap-2">
        <button className="action" onClick={() => end("delivered")}>
          Delivered
        </button>
        <button className="quiet" onClick={() => end("cancelled")}>
          Cancelled
        </button>
        <button className="quiet" onClick={onDone}>
          Leave it open
        </button>
      </p>
      {desk.close.error && (
        <p role="alert" className="text-stop">
          {desk.close.error.message}
        </p>
      )}
    </Sheet>
  );
}
