import { clsx } from "clsx";
import { useState } from "react";
import { Link } from "react-router";

import type { Job } from "../api/client";
import { grams, hours } from "../format";
import type { BoardMachine, Orders } from "./useBoard";
import { clock, give } from "./words";

/**
 * What waits for a machine, in its order, with clock times. Rows are dragged, or moved by their
 * buttons.
 */
export function Queue({
  jobs,
  machine,
  orders,
}: {
  jobs: Job[];
  machine: BoardMachine;
  orders: Orders;
}) {
  const [held, setHeld] = useState<number | null>(null);
  const [over, setOver] = useState<number | "end" | null>(null);
  const drop = (before: number | null) => {
    if (held !== null && held !== before) orders.place.mutate({ id: held, before });
    setHeld(null);
    setOver(null);
  };
  const over_ = (key: number | "end") => ({
    onDragOver: (event: React.DragEvent) => {
      if (held !== null) {
        event.preventDefault();
        setOver(key);
      }
    },
    onDrop: (event: React.DragEvent) => {
      event.preventDefault();
      event.stopPropagation();
      drop(key === "end" ? null : key);
    },
  });
  return (
    <ol
      aria-label={`Queue of ${machine.name}`}
      className="flex max-h-[46vh] flex-col overflow-auto border-t border-hairline"
      {...over_("end")}
    >
      {jobs.map((job, k) => (
        <li
          key={job.id}
          data-job={job.number}
          data-state={job.state}
          draggable
          onDragStart={(event) => {
            event.dataTransfer.setData("text/plain", String(job.number));
            event.dataTransfer.effectAllowed = "move";
            setHeld(job.id);
          }}
          onDragEnd={() => {
            setHeld(null);
            setOver(null);
          }}
          {...over_(job.id)}
          className={clsx(
            "flex items-center gap-2 border-b border-hairline px-2 py-1.5",
            held === job.id ? "opacity-40" : "",
            over === job.id && held !== job.id ? "border-t-2 border-t-fjord" : "",
          )}
        >
          <span
            aria-hidden
            className="cursor-grab px-0.5 text-ink-3"
            title="drag to another place"
          >
            ⠿
          </span>
          <div className="min-w-0 flex-1">
            <p className="truncate font-medium">
              {job.part_name} <span className="font-normal text-ink-2">job {job.number}</span>
            </p>
            {job.slot && (
              <p className="narrow truncate text-[13px]">
                {clock(job.slot.begin)} to {clock(job.slot.end)}
                {give(job.slot.give_s)}
              </p>
            )}
            <p className="narrow truncate text-[13px] text-ink-2">
              {hours(job.figures.time_s)} h · {grams(job.figures.mass_g)} g
              {job.spool_label && ` from ${job.spool_label}`} ·{" "}
              <a
                className="underline"
                href={`/api/jobs/${job.id}/file`}
                download={job.file_name}
              >
                Download
              </a>
            </p>
            {job.reason && (
              <p className="text-[13px] text-look" data-reason>
                ▲ {job.reason}
              </p>
            )}
          </div>
          {machine.kind !== "printer" && k === 0 && (
            <button
              className="quiet"
              onClick={() => orders.order.mutate({ id: job.id, body: { what: "started" } })}
            >
              it runs
            </button>
          )}
          <button
            className="quiet px-1"
            aria-label={`Job ${job.number} earlier`}
            disabled={k === 0}
            onClick={() =>
              orders.place.mutate({ id: job.id, before: (jobs[k - 1] as Job).id })
            }
          >
            ↑
          </button>
          <button
            className="quiet px-1"
            aria-label={`Job ${job.number} later`}
            disabled={k === jobs.length - 1}
            onClick={() =>
              orders.place.mutate({ id: job.id, before: jobs[k + 2]?.id ?? null })
            }
          >
            ↓
          </button>
          <Link
            className="quiet"
            to={`/jobs/${job.id}/slip`}
            aria-label={`Slip of job ${job.number}`}
          >
            Slip
          </Link>
          <button
            className="quiet"
            aria-label={`Cancel job ${job.number}`}
            onClick={() => orders.order.mutate({ id: job.id, body: { what: "cancel" } })}
          >
            Cancel
          </button>
        </li>
      ))}
      {over === "end" && held !== null && <li aria-hidden className="h-1 bg-fjord" />}
    </ol>
  );
}
