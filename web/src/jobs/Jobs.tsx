import { Link } from "react-router";

import { useJobs } from "../api/hooks";
import { Outcome } from "./Outcome";
import { count, euro, grams, hours, metres } from "../format";
import { Message } from "../frame/Message";
import { Picture } from "../parts/Picture";

export function Jobs() {
  const jobs = useJobs();
  if (jobs.isPending) return <Message title="Jobs" text="Fetching the jobs …" />;
  if (jobs.error) return <Message title="Jobs" text={jobs.error.message} again={() => void jobs.refetch()} />;
  return (
    <main className="mx-auto max-w-5xl p-5">
      <h1 className="mb-1 text-2xl font-semibold">Jobs</h1>
      <p className="mb-4 text-ink-2">Committed plans. A job never changes; its file is what was checked. Say how long it took and what came of it: the machine's estimates learn from that.</p>
      {jobs.data.length === 0 && <p className="card p-6 text-ink-2">Nothing committed yet. On a plan's desk, “Commit job …” makes the file.</p>}
      <ul className="flex flex-col gap-2">
        {jobs.data.map((job) => (
          <li key={job.id} data-job={job.number} className="card flex flex-wrap items-center gap-4 p-3">
            <Picture svg={job.picture} name={job.title} size={64} />
            <div className="min-w-0 flex-1">
              <h2 className="truncate text-base font-semibold">Job {job.number} · <span className="narrow">{job.file_name}</span></h2>
              <p className="text-ink-2"><Link className="underline" to={`/plans/${job.plan}`}>{job.title}</Link></p>
              <p className="text-[13px] text-ink-2">committed {new Date(job.created).toLocaleString("en-GB")}{job.committed_by && ` by ${job.committed_by}`}</p>
            </div>
            <dl className="narrow grid grid-cols-[auto_auto] gap-x-3 text-[13px]">
              <dt className="text-ink-3">time</dt><dd className="text-right font-semibold">{hours(job.figures.time_s)} h</dd>
              <dt className="text-ink-3">filament</dt><dd className="text-right">{grams(job.figures.mass_g)} g, {metres(job.figures.length_mm)} m</dd>
              <dt className="text-ink-3">cost</dt><dd className="text-right">{euro(job.figures.cost)}</dd>
              <dt className="text-ink-3">layers</dt><dd className="text-right">{count(job.figures.layers)}</dd>
            </dl>
            <Outcome job={job} />
            <a className="action ml-auto" href={`/api/jobs/${job.id}/file`} download={job.file_name}>Download</a>
          </li>
        ))}
      </ul>
    </main>
  );
}
