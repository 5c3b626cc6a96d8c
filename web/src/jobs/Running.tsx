import { Link } from "react-router";

import type { Job, Material } from "../api/client";
import { grams, hours } from "../format";
import { GiveUp } from "./Copies";
import { FilledPicture } from "./FilledPicture";
import type { BoardMachine, Orders } from "./useBoard";
import { clock, give, STATES } from "./words";

/**
 * What is on a machine: time left in the largest type, the part filled to the height it has,
 * temperatures, and what can be told to the machine.
 */
export function Running({
  job,
  machine,
  orders,
  materials,
}: {
  job: Job;
  machine: BoardMachine;
  orders: Orders;
  materials: Material[];
}) {
  const { word, mark, tone } = STATES[job.state];
  const { layer = 0, layers = 0, left_s: left } = job.progress;
  const share = layers ? layer / layers : 0;
  const order = (what: "pause" | "resume" | "cancel" | "done" | "failed") =>
    orders.order.mutate({ id: job.id, body: { what } });
  const speaks = machine.kind === "printer";
  const others =
    materials
      .find((entry) => entry.spools.some((spool) => spool.id === job.spool))
      ?.spools.filter((spool) => spool.id !== job.spool) ?? [];
  return (
    <section
      data-job={job.number}
      data-state={job.state}
      aria-label={`Job ${job.number} on ${machine.name}`}
      className="flex flex-col gap-2 border-t border-hairline p-3"
    >
      <div className="flex gap-3">
        <FilledPicture address={job.picture} name={job.part_name} share={share} size={104} />
        <div className="min-w-0 flex-1">
          <p className="text-[26px] leading-tight font-semibold whitespace-nowrap">
            {left !== undefined && job.state !== "sending"
              ? `${hours(left)} h left`
              : `${hours(job.figures.time_s)} h`}
          </p>
          <p className={`font-medium ${tone}`}>
            {mark} {word}{" "}
            <span className="font-normal text-ink-2">
              {layers > 0 && `layer ${layer} of ${layers}`}
            </span>
          </p>
          <p className="truncate">
            <Link className="underline" to={`/plans/${job.plan}`}>
              {job.part_name}
            </Link>{" "}
            <span className="text-ink-2">job {job.number}</span>
          </p>
          <p className="narrow text-[13px] text-ink-2">
            {job.slot && job.state !== "paused" && (
              <>
                ends {clock(job.slot.end)}
                {give(job.slot.give_s)} ·{" "}
              </>
            )}
            {grams(job.figures.mass_g)} g{job.spool_label && ` from ${job.spool_label}`}
          </p>
        </div>
      </div>
      <div
        role="progressbar"
        aria-label={`Job ${job.number}`}
        aria-valuenow={Math.round(100 * share)}
        aria-valuemin={0}
        aria-valuemax={100}
        className="h-2 border border-edge bg-paper"
      >
        <div className="h-full bg-fjord" style={{ width: `${100 * share}%` }} />
      </div>
      {job.reason && (
        <p className={job.state === "paused" ? "text-look" : "text-ink-2"} data-reason>
          {job.state === "paused" ? "▲ " : ""}
          {job.reason}
        </p>
      )}
      {job.wish && (
        <p className="text-[13px] text-ink-2">
          {job.wish} is passed on as soon as the machine answers.
        </p>
      )}
      {speaks && <GiveUp job={job} orders={orders} />}
      <div className="flex flex-wrap items-center gap-1.5">
        {speaks && (job.state === "heating" || job.state === "printing") && (
          <button className="quiet" onClick={() => order("pause")}>
            Pause
          </button>
        )}
        {speaks && job.state === "paused" && (
          <button className="quiet" onClick={() => order("resume")}>
            Go on
          </button>
        )}
        {speaks && (
          <button
            className="quiet"
            onClick={() =>
              confirm(`Cancel job ${job.number}? What is laid so far stays on the bed.`) &&
              order("cancel")
            }
          >
            Cancel
          </button>
        )}
        {!speaks && (
          <button className="quiet" onClick={() => order("done")}>
            it is done
          </button>
        )}
        {!speaks && (
          <button className="quiet" onClick={() => order("failed")}>
            it failed
          </button>
        )}
        {job.state === "paused" && others.length > 0 && (
          <label className="flex items-center gap-1 text-[13px]">
            go on with
            <select
              className="field"
              value=""
              onChange={(event) =>
                orders.spool.mutate({ id: job.id, spool: Number(event.target.value) })
              }
            >
              <option value="">another spool …</option>
              {others.map((spool) => (
                <option key={spool.id} value={spool.id}>
                  {spool.label}, {grams(spool.usable_mass)} g
                </option>
              ))}
            </select>
          </label>
        )}
        <a
          className="ml-auto text-[13px] underline"
          href={`/api/jobs/${job.id}/file`}
          download={job.file_name}
        >
          Download
        </a>
        <Link className="quiet" to={`/jobs/${job.id}/slip`}>
          Slip
        </Link>
      </div>
    </section>
  );
}
