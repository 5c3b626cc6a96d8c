import { useState } from "react";

import { Sheet } from "../frame/Sheet";
import type { OrderDesk } from "./useOrderBook";

const EXAMPLE = `order,customer,due,part,pieces
A-17,Harbour office,2027-01-15,anemometer-cup,40
A-17,Harbour office,2027-01-15,mast-clamp,6`;

/** Orders from a table: a file, or lines that are pasted. */
export function ImportSheet({ desk, onClose }: { desk: OrderDesk; onClose: () => void }) {
  const [table, setTable] = useState("");
  const found = desk.readIn.data;
  return (
    <Sheet title="Orders from a table" onClose={onClose} wide>
      <p className="mt-1 text-[13px] text-ink-2">
        The first row names the columns: <b>part</b> and <b>pieces</b>; and, where you have
        them, order, customer, due, urgency, plans, note. Rows with the same order belong
        together, and are taken only if all of them are right. Columns are separated by commas,
        semicolons or tabs.
      </p>
      <form
        className="mt-2 flex flex-col gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          desk.readIn.mutate(table);
        }}
      >
        <input
          type="file"
          accept=".csv,.txt,.tsv,text/csv"
          aria-label="Table file"
          onChange={(event) =>
            void event.target.files?.[0]?.text().then((text) => setTable(text))
          }
        />
        <textarea
          className="field h-40 w-full font-mono"
          aria-label="Table"
          placeholder={EXAMPLE}
          value={table}
          onChange={(event) => setTable(event.target.value)}
        />
        <div className="flex gap-2">
          <button className="action" disabled={!table.trim() || desk.readIn.isPending}>
            Take these orders
          </button>
          <button type="button" className="quiet" onClick={onClose}>
            Close
          </button>
        </div>
      </form>
      {desk.readIn.error && (
        <p role="alert" className="mt-2 text-stop">
          {desk.readIn.error.message}
        </p>
      )}
      {found && (
        <div role="status" className="mt-2">
          <p>
            <b>
              {found.orders.length} {found.orders.length === 1 ? "order" : "orders"} taken
            </b>
            {found.wrong.length > 0 && `; these rows are wrong:`}
          </p>
          <ul className="text-[13px] text-stop">
            {found.wrong.map((one) => (
              <li key={one.row}>
                ◆ row {one.row}: {one.words}
              </li>
            ))}
          </ul>
        </div>
      )}
    </Sheet>
  );
}
