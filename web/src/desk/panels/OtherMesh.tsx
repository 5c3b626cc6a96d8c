import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";

import { api, data, type Plan } from "../../api/client";
import { useParts } from "../../api/hooks";
import { Narrow } from "../../library/Narrow";

/**
 * Put a changed mesh under the plan: settings, bands and regions stay where they still make sense;
 * what did not is listed.
 */
export function OtherMesh({ plan }: { plan: Plan }) {
  const [search, setSearch] = useState("");
  const parts = useParts(search);
  const client = useQueryClient();
  const change = useMutation({
    mutationFn: (part: number) =>
      data(
        api.POST("/api/plans/{id}/mesh", {
          params: { path: { id: plan.id } },
          body: { part },
        }),
      ),
    onSuccess: async (done) => {
      client.setQueryData(["plan", plan.id], done.plan);
      await Promise.all(
        ["plans", "parts", "shape"].map((key) =>
          client.invalidateQueries({ queryKey: [key] }),
        ),
      );
    },
  });
  const others = (parts.data ?? []).filter(
    (part) => part.state === "ready" && part.id !== plan.part.id,
  );
  const done = change.data;
  const now = plan.exact?.id;
  return (
    <fieldset>
      <legend className="font-semibold">A changed mesh</legend>
      <p className="mt-1 text-ink-2">
        Another part under this plan: its settings, bands and regions stay where they still
        make sense.
      </p>
      <Narrow
        what="parts"
        found={parts.data?.length ?? 0}
        search={search}
        onSearch={setSearch}
      />
      <select
        className="field mt-1"
        aria-label="Another part under this plan"
        value=""
        disabled={change.isPending}
        onChange={(event) => event.target.value && change.mutate(Number(event.target.value))}
      >
        <option value="">{others.length ? "choose a part …" : "drop its file first"}</option>
        {others.map((part) => (
          <option key={part.id} value={part.id}>
            {part.name}
          </option>
        ))}
      </select>
      {change.error && (
        <p role="alert" className="mt-1 text-stop">
          {change.error.message}
        </p>
      )}
      {done && (
        <div role="status" data-mesh className="mt-1">
          {done.left_out.length === 0 ? (
            <p>Everything still makes sense on {plan.part.name}.</p>
          ) : (
            <>
              <p>Left out, or cut:</p>
              <ul className="list-disc pl-5">
                {done.left_out.map((line) => (
                  <li key={line}>{line}</li>
                ))}
              </ul>
            </>
          )}
          {done.before && now && now !== done.before && (
            <Link className="underline" to={`/compare?versions=${done.before},${now}`}>
              Compare old and new
            </Link>
          )}
        </div>
      )}
    </fieldset>
  );
}
