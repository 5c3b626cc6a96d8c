import { useMutation, useQueryClient } from "@tanstack/react-query";

import { api, data, Refusal } from "../api/client";

/** Machines, materials and spools as a JSON file, out and in again. */
export function WorkshopFile() {
  const client = useQueryClient();
  const take = useMutation({
    mutationFn: async (file: File) => {
      let found: unknown;
      try {
        found = JSON.parse(await file.text());
      } catch {
        throw new Refusal(`${file.name} is no JSON file; nothing was changed.`, "", 0);
      }
      return data(api.POST("/api/workshop/import", { body: found as Record<string, never> }));
    },
    onSuccess: () =>
      Promise.all(
        ["machines", "materials", "workshop"].map((key) =>
          client.invalidateQueries({ queryKey: [key] }),
        ),
      ),
  });
  return (
    <section className="card flex flex-col gap-3 p-4">
      <h2 className="text-lg font-semibold">Workshop file</h2>
      <p className="text-ink-2">
        All machines with their nozzles, materials and spools in one file, to keep or to carry
        to another workshop. Taken in, known names are changed and new ones added, all of it or
        nothing; nothing is removed.
      </p>
      <p className="flex flex-wrap gap-2">
        <a className="action" href="/api/workshop/export" download="workshop.json">
          Download the file
        </a>
        <label className="quiet min-h-8">
          Take a file in …
          <input
            type="file"
            className="sr-only"
            accept="application/json,.json"
            onChange={(event) => {
              const file = event.target.files?.[0];
              if (file) take.mutate(file);
              event.target.value = "";
            }}
          />
        </label>
        <a
          className="quiet min-h-8"
          href="/api/workshop/schema"
          target="_blank"
          rel="noreferrer"
        >
          What may stand in it (JSON schema)
        </a>
      </p>
      {take.error && (
        <p role="alert" className="text-stop">
          {take.error.message}
        </p>
      )}
      {take.data && (
        <ul role="status" className="list-disc pl-5">
          {take.data.done.map((line) => (
            <li key={line}>{line}</li>
          ))}
        </ul>
      )}
      <h2 className="mt-5 text-base font-semibold">Everything in one archive</h2>
      <p className="mb-2 text-ink-2">
        Part files, plans with their settings and reports, jobs with their files and what came
        of them, and every spool&apos;s ledger, to be read without this program. Owners may
        take it; what is to be put back is the backup.
      </p>
      <a
        className="quiet min-h-8 self-start no-underline"
        href="/api/workshop/archive"
        download
      >
        Download the archive
      </a>
    </section>
  );
}
