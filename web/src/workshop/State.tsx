import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { Link } from "react-router";

import { api, data, type Schemas } from "../api/client";
import { NumberField } from "../desk/panels/NumberField";
import { bytes, count, span, when } from "../format";
import { Message } from "../frame/Message";

type Now = Schemas["State"];

/** A worker that gave no sign for longer than this is not there (s). */
const SILENT = 30;
const ROOM = {
  parts: "parts",
  plans: "plans and the files of their jobs",
  jobs: "jobs whose plan is gone",
  photos: "photos",
};
const LANES: Record<string, string> = {
  small: "takes seconds",
  large: "takes longer",
};

/** How the service is: what is computed, who answers, room on disk, the last backup. */
export function State() {
  const client = useQueryClient();
  const state = useQuery({
    queryKey: ["state"],
    queryFn: () => data(api.GET("/api/state")),
    refetchInterval: 5000,
  });
  const keep = useMutation({
    mutationFn: (keep_days: number) =>
      data(api.PATCH("/api/workshop", { body: { keep_days } })),
    onSettled: () => client.invalidateQueries({ queryKey: ["state"] }),
  });
  if (!state.data)
    return <Message title="State" text={state.error?.message ?? "Looking around …"} />;
  const now = state.data;
  const used = now.disk.total - now.disk.free;
  return (
    <div className="grid grid-cols-2 items-start gap-4">
      <Box title="Computing">
        <p>
          {now.last_sign_s !== null && now.last_sign_s < SILENT ? (
            <>● workers answer</>
          ) : (
            <b className="text-stop">■ no worker answers; nothing is computed</b>
          )}
          {now.last_sign_s !== null && (
            <span className="text-[13px] text-ink-2">
              , last sign {span(now.last_sign_s)} ago
            </span>
          )}
        </p>
        <table className="mt-2 w-full text-left text-[13px]">
          <thead className="text-ink-2">
            <tr>
              <th className="font-normal">Work that</th>
              <th className="text-right font-normal">waits</th>
              <th className="text-right font-normal">is computed</th>
            </tr>
          </thead>
          <tbody>
            {now.queue.map((row) => (
              <tr key={row.lane} className="border-t border-hairline">
                <td className="py-1">{LANES[row.lane] ?? row.lane}</td>
                <td className="text-right tabular-nums">{row.waiting}</td>
                <td className="text-right tabular-nums">{row.computing}</td>
              </tr>
            ))}
          </tbody>
        </table>
        <Slowest rows={now.slowest} />
      </Box>
      <Box title="Machines">
        {now.machines.length === 0 && <p className="text-ink-2">There are none yet.</p>}
        <ul>
          {now.machines.map((machine) => (
            <li key={machine.name} className="border-t border-hairline py-1 first:border-0">
              {machine.name} <span className="text-[13px] text-ink-2">{said(machine)}</span>
              {machine.error && (
                <span className="block text-[13px] text-stop">■ {machine.error}</span>
              )}
              {machine.trouble && (
                <span className="block text-[13px] text-look">▲ {machine.trouble}</span>
              )}
            </li>
          ))}
        </ul>
      </Box>
      <Box title="Room on disk">
        <p className="text-xl font-semibold">{bytes(now.disk.free)} free</p>
        <p className="text-[13px] text-ink-2">
          of {bytes(now.disk.total)}; {((100 * used) / now.disk.total).toFixed(0)} % used by
          all
        </p>
        {now.disk.free < 0.05 * now.disk.total && (
          <p className="text-stop">■ nearly full: plans and backups will fail</p>
        )}
        <dl className="mt-2 grid grid-cols-[1fr_max-content] text-[13px]">
          {(["parts", "plans", "jobs", "photos"] as const).map((kind) => (
            <div key={kind} className="contents">
              <dt>this workshop&apos;s {ROOM[kind]}</dt>
              <dd className="text-right tabular-nums">{bytes(now.room[kind])}</dd>
            </div>
          ))}
        </dl>
        <p className="mt-2 flex items-center gap-2 text-[13px]">
          Old versions are kept for
          <NumberField
            label="Days old versions are kept"
            unit="days (0: for ever)"
            value={now.keep_days}
            min={0}
            max={3650}
            step={10}
            width="w-16"
            onValue={(v) => v !== null && keep.mutate(v)}
          />
        </p>
        <p className="text-[13px] text-ink-2">
          {count(now.versions)} versions are kept. Older ones go at night, but for the newest
          of a plan, baselines, and what jobs and test slices are of.
        </p>
        {keep.error && (
          <p role="alert" className="text-stop">
            {keep.error.message}
          </p>
        )}
      </Box>
      <Box title="Last backup">
        {now.backup ? (
          <p>
            {when(now.backup.at)}
            <span className="block text-[13px] text-ink-2">
              {now.backup.file}, {bytes(now.backup.bytes)}
            </span>
          </p>
        ) : (
          <p>
            <b className="text-look">▲ none yet.</b>{" "}
            <code className="text-[13px]">./start --backup FILE</code>
          </p>
        )}
        <p className="mt-2 text-[13px] text-ink-2">The program is version {now.version}.</p>
      </Box>
    </div>
  );
}

function Box({ title, children }: { title: string; children: ReactNode }) {
  return (
    <section className="card p-4" aria-label={title}>
      <h2 className="mb-1 text-lg font-semibold">{title}</h2>
      {children}
    </section>
  );
}

function said(machine: Now["machines"][number]): string {
  if (machine.kind === "none") return "files are carried by hand";
  if (machine.kind === "folder") return "files go to a folder";
  return machine.seen ? `last heard ${when(machine.seen)}` : "not heard yet";
}

function Slowest({ rows }: { rows: Now["slowest"] }) {
  if (!rows.length) return null;
  return (
    <>
      <h3 className="mt-3 text-[13px] font-semibold">Took longest in the last week</h3>
      <ul className="text-[13px]">
        {rows.map((row, k) => (
          <li key={k} className="flex justify-between gap-2 border-t border-hairline py-1">
            <Link className="underline" to={`/plans/${row.plan}`}>
              plan {row.number}, {row.part}
            </Link>
            <span className="tabular-nums">{row.seconds.toFixed(1)} s</span>
          </li>
        ))}
      </ul>
    </>
  );
}
