import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, data, type Schemas } from "../api/client";

type Workshop = Schemas["Workshop"];

/**
 * What the workshop has of its own: file names and the checklist before a commit.
 */
export function Naming({ workshop }: { workshop: Workshop }) {
  const client = useQueryClient();
  const [template, setTemplate] = useState(workshop.name_template ?? "");
  const [fresh, setFresh] = useState("");
  const save = useMutation({
    mutationFn: (body: { name_template?: string; checklist?: string[] }) =>
      data(api.PATCH("/api/workshop", { body })),
    onSuccess: (saved) => client.setQueryData(["workshop"], saved),
  });
  const list = workshop.checklist ?? [];
  return (
    <>
      <section className="card p-4">
        <h2 className="text-lg font-semibold">File names</h2>
        <p className="mb-2 text-[13px] text-ink-2">
          Fields:{" "}
          {Object.entries(workshop.template_fields).map(([name, what]) => (
            <span key={name} className="mr-2 inline-block" title={what}>
              <code>{`{${name}}`}</code>
            </span>
          ))}
        </p>
        <form
          className="flex flex-wrap gap-2"
          onSubmit={(event) => {
            event.preventDefault();
            save.mutate({ name_template: template });
          }}
        >
          <input
            className="field min-w-80 flex-1"
            aria-label="File name template"
            value={template}
            onChange={(event) => setTemplate(event.target.value)}
            aria-invalid={!!save.error}
          />
          <button
            className="quiet"
            disabled={template === workshop.name_template || save.isPending}
          >
            Keep
          </button>
        </form>
      </section>
      <section className="card p-4">
        <h2 className="text-lg font-semibold">Checklist before a commit</h2>
        <p className="mb-2 text-[13px] text-ink-2">
          Each line wants its tick on the review before a plan becomes a job.
        </p>
        <ul>
          {list.map((line, k) => (
            <li key={k} className="flex items-center gap-2 border-b border-hairline py-1">
              <span className="flex-1">{line}</span>
              <button
                className="quiet"
                aria-label={`Remove ${line}`}
                onClick={() => save.mutate({ checklist: list.filter((_, n) => n !== k) })}
              >
                remove
              </button>
            </li>
          ))}
        </ul>
        <form
          className="mt-2 flex gap-2"
          onSubmit={(event) => {
            event.preventDefault();
            if (fresh.trim()) {
              save.mutate({ checklist: [...list, fresh.trim()] });
              setFresh("");
            }
          }}
        >
          <input
            className="field flex-1"
            aria-label="New line of the checklist"
            placeholder="such as: bed clean"
            maxLength={120}
            value={fresh}
            onChange={(event) => setFresh(event.target.value)}
          />
          <button className="quiet" disabled={!fresh.trim()}>
            Add
          </button>
        </form>
      </section>
      {save.error && (
        <p role="alert" className="text-stop">
          {save.error.message}
        </p>
      )}
    </>
  );
}
