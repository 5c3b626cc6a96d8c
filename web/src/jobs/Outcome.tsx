import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, data, type Job } from "../api/client";
import { NumberField } from "../desk/NumberField";
import { signedPercent, span } from "../format";

const WORDS = { good: "good", flaws: "with flaws", failed: "failed" } as const;
type Word = keyof typeof WORDS;

/** What came of a job: how long it really took, how good it is, minutes of finishing work, a note. */
export function Outcome({ job }: { job: Job }) {
  const client = useQueryClient();
  const [open, setOpen] = useState(false);
  const [word, setWord] = useState<Word>((job.outcome || "good") as Word);
  const [minutes, setMinutes] = useState<number | null>(job.actual_s ? job.actual_s / 60 : null);
  const [finishing, setFinishing] = useState(job.finishing_min ?? 0);
  const [note, setNote] = useState(job.note ?? "");
  const keep = useMutation({
    mutationFn: () => data(api.POST("/api/jobs/{id}/outcome", { params: { path: { id: job.id } }, body: { outcome: word, actual_s: minutes === null ? null : 60 * minutes, finishing_min: finishing, note } })),
    onSuccess: async () => {
      setOpen(false);
      await Promise.all([client.invalidateQueries({ queryKey: ["jobs"] }), client.invalidateQueries({ queryKey: ["machines"] })]);
    },
  });
  if (!open)
    return (
      <p className="w-44 text-[13px]">
        {job.outcome ? <><b>{WORDS[job.outcome as Word]}</b>{job.actual_s ? `, took ${span(job.actual_s)} (${signedPercent(job.actual_s, job.figures.time_s)})` : ""} </> : <span className="text-ink-2">not told yet </span>}
        <button className="quiet" onClick={() => setOpen(true)}>{job.outcome ? "change …" : "what came of it …"}</button>
      </p>
    );
  return (
    <form aria-label={`What came of job ${job.number}`} className="flex w-full flex-wrap items-center gap-2 border-t border-hairline pt-2 text-[13px]" onSubmit={(event) => { event.preventDefault(); keep.mutate(); }}>
      <span className="flex" role="group" aria-label="Outcome">{(Object.keys(WORDS) as Word[]).map((name) => <button key={name} type="button" className="quiet" aria-pressed={word === name} onClick={() => setWord(name)}>{WORDS[name]}</button>)}</span>
      took <NumberField label="Minutes it took" unit="min, heating included" value={minutes} min={0.1} max={150000} step={1} placeholder="not known" width="w-20" onValue={setMinutes} />
      finishing <NumberField label="Minutes of finishing" unit="min" value={finishing} min={0} max={100000} step={5} width="w-16" onValue={(v) => setFinishing(v ?? 0)} />
      <input className="field min-w-40 flex-1" aria-label="Note" placeholder="note" maxLength={2000} value={note} onChange={(event) => setNote(event.target.value)} />
      <button className="quiet" disabled={keep.isPending}>Keep</button>
      <button type="button" className="quiet" onClick={() => setOpen(false)}>Not now</button>
      {keep.error && <span role="alert" className="text-stop">{keep.error.message}</span>}
    </form>
  );
}
