import { useMutation, useQueryClient } from "@tanstack/react-query";

import { api, data, type Job } from "../api/client";
import type { Orders } from "./useBoard";

const WORDS = {
  "": "not told",
  good: "good",
  flaws: "with flaws",
  failed: "failed",
  "given-up": "given up",
} as const;
type State = keyof typeof WORDS;

/** The copies of a bed's job while it runs: each can be given up, the others go on. */
export function GiveUp({ job, orders }: { job: Job; orders: Orders }) {
  if (job.copies.length < 2) return null;
  const given = job.copies.filter((copy) => copy.state === "given-up").length;
  return (
    <details className="w-full text-[13px]" data-give-up={job.number}>
      <summary className="cursor-pointer">
        {job.copies.length} copies{given > 0 && `, ${given} given up`}
      </summary>
      <ul className="mt-1 flex max-h-56 flex-col gap-1 overflow-auto">
        {job.copies.map((copy) => (
          <li key={copy.number} className="flex items-center justify-between gap-2">
            <span className="truncate">
              {copy.number} {copy.name}
            </span>
            {copy.state === "given-up" ? (
              <span className="text-ink-2">given up</span>
            ) : (
              <button
                className="quiet"
                aria-label={`Give up copy ${copy.number} of job ${job.number}`}
                onClick={() =>
                  confirm(
                    `Give up copy ${copy.number}? What is laid of it stays; the rest of it ` +
                      "is left out, and the others go on.",
                  ) &&
                  orders.order.mutate({
                    id: job.id,
                    body: { what: "give-up", copy: copy.number },
                  })
                }
              >
                give up
              </button>
            )}
          </li>
        ))}
      </ul>
    </details>
  );
}

/** The copies of a bed's job, and what came of each once it has ended. */
export function Copies({ job }: { job: Job }) {
  const client = useQueryClient();
  const tell = useMutation({
    mutationFn: (body: { number: number; state: State }) =>
      data(
        api.POST("/api/jobs/{id}/copies", {
          params: { path: { id: job.id } },
          body: { copies: [body] },
        }),
      ),
    onSuccess: () => client.invalidateQueries({ queryKey: ["board"] }),
  });
  if (!job.copies.length) return null;
  return (
    <details className="w-full text-[13px]" data-copies={job.number}>
      <summary className="cursor-pointer">
        {job.copies.length} copies, what came of each
      </summary>
      {tell.error && (
        <p role="alert" className="text-stop">
          {tell.error.message}
        </p>
      )}
      <ul className="mt-1 flex max-h-56 flex-col gap-1 overflow-auto">
        {job.copies.map((copy) => (
          <li key={copy.number} className="flex items-center gap-2">
            <span className="w-40 truncate">
              {copy.number} {copy.name}
            </span>
            <select
              className="field"
              aria-label={`Copy ${copy.number} of job ${job.number}`}
              value={copy.state}
              onChange={(event) =>
                tell.mutate({ number: copy.number, state: event.target.value as State })
              }
            >
              {(Object.keys(WORDS) as State[]).map((state) => (
                <option key={state} value={state}>
                  {WORDS[state]}
                </option>
              ))}
            </select>
          </li>
        ))}
      </ul>
    </details>
  );
}
