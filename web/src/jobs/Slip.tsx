import { useQuery } from "@tanstack/react-query";
import { Link, useParams } from "react-router";

import { api, data } from "../api/client";
import { grams, hours, metres } from "../format";
import { Message } from "../frame/Message";
import { Picture } from "../parts/Picture";
import { clock, give, STATES } from "./words";

/**
 * The slip that lies beside a job, made for paper: what it is, what matters of its settings, and a
 * code that leads back to it.
 */
export function Slip() {
  const id = Number(useParams().id);
  const slip = useQuery({
    queryKey: ["slip", id],
    queryFn: () => data(api.GET("/api/jobs/{id}/slip", { params: { path: { id } } })),
  });
  if (!slip.data)
    return (
      <Message
        title="Slip"
        text={slip.error?.message ?? "Writing the slip …"}
        {...(slip.error ? { again: () => void slip.refetch() } : {})}
      />
    );
  const { job, settings, code, address } = slip.data;
  return (
    <main className="mx-auto max-w-3xl p-5 print:p-0">
      <p className="mb-3 flex gap-2 print:hidden">
        <Link className="quiet" to="/jobs">
          Back to the board
        </Link>
        <button className="action" onClick={() => window.print()}>
          Print the slip
        </button>
      </p>
      <article
        aria-label={`Slip of job ${job.number}`}
        className="border border-ink bg-sheet p-5"
      >
        <header className="flex items-start gap-5 border-b border-ink pb-4">
          <Picture address={job.picture} name={job.part_name} size={130} />
          <div className="min-w-0 flex-1">
            <p className="text-[13px] text-ink-2">
              Job {job.number} · {STATES[job.state].word}
            </p>
            <h1 className="text-[28px] leading-tight font-semibold">{job.part_name}</h1>
            <p className="text-ink-2">{job.title}</p>
            <p className="mt-2 break-all">
              <code>{job.file_name}</code>
            </p>
          </div>
          <figure className="w-32 shrink-0 text-center">
            <img
              src={`data:image/svg+xml;utf8,${encodeURIComponent(code)}`}
              width={128}
              height={128}
              alt={`Code that leads to ${address}`}
            />
            <figcaption className="narrow text-[12px] break-all text-ink-2">
              scan to open
            </figcaption>
          </figure>
        </header>
        <dl className="grid grid-cols-2 gap-x-8 gap-y-3 py-4 sm:grid-cols-4">
          <Big label="time" value={`${hours(job.figures.time_s)} h`} />
          <Big
            label="filament"
            value={`${grams(job.figures.mass_g)} g`}
            below={`${metres(job.figures.length_mm)} m`}
          />
          <Big label="on" value={job.machine_name} />
          <Big label="from" value={job.spool_label || "no spool"} />
        </dl>
        <dl className="grid grid-cols-[auto_1fr] gap-x-5 gap-y-1 border-t border-hairline pt-3">
          {settings.map((line) => (
            <div key={line.label} className="contents">
              <dt className="text-ink-2">{line.label}</dt>
              <dd>{line.value}</dd>
            </div>
          ))}
          {job.slot && (
            <>
              <dt className="text-ink-2">by the clock</dt>
              <dd>
                {clock(job.slot.begin)} to {clock(job.slot.end)}
                {give(job.slot.give_s)}
              </dd>
            </>
          )}
          <dt className="text-ink-2">layers</dt>
          <dd>{job.figures.layers}</dd>
          <dt className="text-ink-2">file checksum</dt>
          <dd>
            <code className="text-[12px] break-all">
              {((job.checksums as Record<string, string>).file ?? "").slice(0, 16)}
            </code>
          </dd>
          <dt className="text-ink-2">committed</dt>
          <dd>
            {new Date(job.created).toLocaleString("en-GB")}
            {job.committed_by && ` by ${job.committed_by}`}
          </dd>
        </dl>
      </article>
    </main>
  );
}

function Big({ label, value, below }: { label: string; value: string; below?: string }) {
  return (
    <div>
      <dt className="text-[13px] text-ink-2">{label}</dt>
      <dd className="text-[22px] leading-tight font-semibold">{value}</dd>
      {below && <dd className="text-[13px] text-ink-2">{below}</dd>}
    </div>
  );
}
