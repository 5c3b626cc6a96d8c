import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, csrf, data, type Job, refusalOf } from "../api/client";
import { NumberField } from "../desk/panels/NumberField";
import { grams, span } from "../format";
import { Measures } from "./Measures";

const WORDS = { good: "good", flaws: "with flaws", failed: "failed" } as const;
type Word = keyof typeof WORDS;

/**
 * What came of a job: how good it is, how long it took where the machine does not say so, finishing
 * work, weight, measures, a photo, a note.
 */
export function Outcome({ job }: { job: Job }) {
  const client = useQueryClient();
  const [open, setOpen] = useState(false);
  // nothing is said of a job at first
  const said = job.outcome as Word | "";
  const [word, setWord] = useState<Word>(said || "good");
  const [minutes, setMinutes] = useState<number | null>(
    job.actual_s ? job.actual_s / 60 : null,
  );
  const [finishing, setFinishing] = useState(job.finishing_min);
  const [weighed, setWeighed] = useState<number | null>(job.weighed_g);
  const [measures, setMeasures] = useState(job.measures);
  const [note, setNote] = useState(job.note);
  const [flow, setFlow] = useState<number | null>(null);
  const told = () =>
    Promise.all(
      ["board", "machines", "materials", "plan"].map((key) =>
        client.invalidateQueries({ queryKey: [key] }),
      ),
    );
  const keep = useMutation({
    mutationFn: () =>
      data(
        api.POST("/api/jobs/{id}/outcome", {
          params: { path: { id: job.id } },
          body: {
            outcome: word,
            actual_s: minutes === null ? null : 60 * minutes,
            finishing_min: finishing,
            note,
            weighed_g: weighed,
            measures,
          },
        }),
      ),
    onSuccess: async () => {
      setOpen(false);
      await told();
    },
  });
  const photo = useMutation({
    mutationFn: async (file: File) => {
      const form = new FormData();
      form.append("file", file);
      const answer = await fetch(`/api/jobs/${job.id}/photo`, {
        method: "POST",
        body: form,
        headers: { "X-CSRFToken": csrf() },
      });
      if (!answer.ok) throw await refusalOf(answer);
    },
    onSuccess: told,
  });
  const correct = useMutation({
    mutationFn: () =>
      data(api.POST("/api/jobs/{id}/flow", { params: { path: { id: job.id } } })),
    onSuccess: async (answer) => {
      setFlow(answer.flow);
      await told();
    },
  });
  if (!open)
    return (
      <p className="w-56 text-[13px]">
        {said ? (
          <>
            <b>{WORDS[job.outcome]}</b>
            {job.finishing_min > 0 && `, ${span(60 * job.finishing_min)} of finishing`}
            {job.weighed_g && `, weighs ${grams(job.weighed_g)} g`}{" "}
          </>
        ) : (
          <span className="text-ink-2">not told yet </span>
        )}
        {job.photo && (
          <a
            className="underline"
            href={`/api/jobs/${job.id}/photo`}
            target="_blank"
            rel="noreferrer"
          >
            photo
          </a>
        )}{" "}
        <button className="quiet" onClick={() => setOpen(true)}>
          {said ? "change …" : "what came of it …"}
        </button>
      </p>
    );
  const wrong = keep.error ?? photo.error ?? correct.error;
  return (
    <form
      aria-label={`What came of job ${job.number}`}
      className="flex w-full flex-col gap-2 border-t border-hairline pt-2 text-[13px]"
      onSubmit={(event) => {
        event.preventDefault();
        keep.mutate();
      }}
    >
      <div className="flex flex-wrap items-center gap-2">
        <span className="flex" role="group" aria-label="Outcome">
          {(Object.keys(WORDS) as Word[]).map((name) => (
            <button
              key={name}
              type="button"
              className="quiet"
              aria-pressed={word === name}
              onClick={() => setWord(name)}
            >
              {WORDS[name]}
            </button>
          ))}
        </span>
        took{" "}
        <NumberField
          label="Minutes it took"
          unit="min, heating included"
          value={minutes}
          min={0.1}
          max={150000}
          step={1}
          placeholder="not known"
          width="w-20"
          onValue={setMinutes}
        />
        finishing{" "}
        <NumberField
          label="Minutes of finishing"
          unit="min"
          value={finishing}
          min={0}
          max={100000}
          step={5}
          width="w-16"
          onValue={(v) => setFinishing(v ?? 0)}
        />
        weighs{" "}
        <NumberField
          label="Weight of the part"
          unit="g"
          value={weighed}
          min={0.01}
          max={100000}
          step={0.1}
          placeholder="—"
          width="w-16"
          onValue={setWeighed}
        />
      </div>
      <Measures measures={measures} onMeasures={setMeasures} />
      <div className="flex flex-wrap items-center gap-2">
        <input
          className="field min-w-40 flex-1"
          aria-label="Note"
          placeholder="note"
          maxLength={2000}
          value={note}
          onChange={(event) => setNote(event.target.value)}
        />
        <label className="quiet">
          photo …
          <input
            type="file"
            className="sr-only"
            accept="image/png,image/jpeg"
            onChange={(event) =>
              event.target.files?.[0] && photo.mutate(event.target.files[0])
            }
          />
        </label>
        {photo.isSuccess && <span className="text-ink-2">photo kept</span>}
        {job.weighed_g && job.spool && (
          <button
            type="button"
            className="quiet"
            title={`planned ${grams(job.figures.mass_g)} g`}
            onClick={() => correct.mutate()}
          >
            correct the flow of {job.spool_label}
          </button>
        )}
        {flow !== null && (
          <span>
            flow of {job.spool_label} is now {flow.toFixed(1)} %
          </span>
        )}
        <button className="quiet" disabled={keep.isPending}>
          Keep
        </button>
        <button type="button" className="quiet" onClick={() => setOpen(false)}>
          Not now
        </button>
      </div>
      {wrong && (
        <span role="alert" className="text-stop">
          {wrong.message}
        </span>
      )}
    </form>
  );
}
