import { Link } from "react-router";

import type { Job } from "../api/client";
import { grams, signedPercent, span } from "../format";
import { Picture } from "../parts/Picture";
import { Copies } from "./Copies";
import { Outcome } from "./Outcome";
import type { Orders } from "./useBoard";
import { clock, STATES } from "./words";

/**
 * What ended last: how long it took against the estimate, what it took off the spool, and what came
 * of it.
 */
export function Ended({ jobs, orders }: { jobs: Job[]; orders: Orders }) {
  return (
    <section aria-label="Ended jobs">
      <h2 className="mt-5 mb-2 text-lg font-semibold">Ended</h2>
      {jobs.length === 0 && (
        <p className="card p-4 text-ink-2">
          No job has ended yet. What comes of them is kept here, and corrects the estimates.
        </p>
      )}
      <ul className="flex flex-col gap-1.5">
        {jobs.map((job) => {
          const { word, mark, tone } = STATES[job.state];
          // of a bed with pieces given up, less was laid than planned
          const left = job.copies.filter((copy) => copy.state !== "given-up").length;
          const part = left > 0 && left < job.copies.length;
          return (
            <li
              key={job.id}
              data-job={job.number}
              data-state={job.state}
              className="card flex flex-wrap items-center gap-x-4 gap-y-1 p-2"
            >
              <Picture address={job.picture} name={job.part_name} size={48} />
              <div className="min-w-52 flex-1">
                <p className="truncate">
                  <b>Job {job.number}</b>{" "}
                  <Link className="underline" to={`/plans/${job.plan}`}>
                    {job.title}
                  </Link>
                  {job.reprint_of && (
                    <span className="text-ink-2">, job {job.reprint_of} again</span>
                  )}
                </p>
                <p className="narrow text-[13px] text-ink-2">
                  <span className={`font-medium ${tone}`}>
                    {mark} {word}
                  </span>
                  {job.ended && ` ${clock(job.ended)}`}
                  {job.reason && ` · ${job.reason}`} · <code>{job.file_name}</code>
                </p>
              </div>
              <dl className="narrow grid grid-cols-[auto_auto] gap-x-3 text-[13px]">
                <dt className="text-ink-3">took</dt>
                <dd className="text-right">
                  {job.actual_s ? (
                    <>
                      <b>{span(job.actual_s)}</b>{" "}
                      {part
                        ? `for ${left} of ${job.copies.length}, ` +
                          `${span(job.actual_s / left)} a piece`
                        : `(${signedPercent(job.actual_s, job.figures.time_s)})`}
                    </>
                  ) : (
                    "not known"
                  )}
                </dd>
                <dt className="text-ink-3">off {job.spool_label || "no spool"}</dt>
                <dd className="text-right">
                  {grams(job.taken_g)} of {grams(job.figures.mass_g)} g
                  {part && `, ${grams(job.taken_g / left)} g a piece`}
                </dd>
              </dl>
              <Outcome job={job} />
              <Copies job={job} />
              <span className="ml-auto flex gap-1.5">
                <button className="quiet" onClick={() => orders.reprint.mutate(job.id)}>
                  Print again
                </button>
                <Link className="quiet" to={`/jobs/${job.id}/slip`}>
                  Slip
                </Link>
                <a
                  className="quiet"
                  href={`/api/jobs/${job.id}/file`}
                  download={job.file_name}
                >
                  Download
                </a>
              </span>
            </li>
          );
        })}
      </ul>
    </section>
  );
}
