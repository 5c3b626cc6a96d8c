import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "react-router";

import { api, data } from "../api/client";
import { OPEN } from "../api/hooks";
import { grams, hours } from "../format";
import { Message } from "../frame/Message";

/** Beds of the workshop. */
export function Beds() {
  const client = useQueryClient();
  const beds = useQuery({
    queryKey: ["beds"],
    queryFn: () => data(api.GET("/api/beds")),
    refetchOnMount: "always",
    refetchInterval: (query) =>
      query.state.data?.some((bed) => OPEN.includes(bed.state)) ? 700 : false,
  });
  const remove = useMutation({
    mutationFn: (id: number) => api.DELETE("/api/beds/{id}", { params: { path: { id } } }),
    onSuccess: () => client.invalidateQueries({ queryKey: ["beds"] }),
  });
  const copy = useMutation({
    mutationFn: (id: number) =>
      data(api.POST("/api/beds/{id}/copy", { params: { path: { id } } })),
    onSuccess: () => client.invalidateQueries({ queryKey: ["beds"] }),
  });
  const wrong = remove.error ?? copy.error;
  if (beds.isPending) return <Message title="Beds" text="Fetching the beds …" />;
  if (beds.error && !beds.data)
    return (
      <Message title="Beds" text={beds.error.message} again={() => void beds.refetch()} />
    );
  return (
    <main className="mx-auto max-w-5xl p-5">
      <header className="mb-4 flex items-baseline gap-3">
        <h1 className="text-2xl font-semibold">Beds</h1>
        <span className="text-ink-2">
          Plates with many placings, laid together or in turn.
        </span>
      </header>
      {wrong && (
        <p role="alert" className="mb-2 text-stop">
          {wrong.message}
        </p>
      )}
      {beds.data.length === 0 ? (
        <p className="card p-6 text-ink-2">
          No beds yet. Tick exact plans of one machine under{" "}
          <Link className="text-fjord underline" to="/plans">
            Plans
          </Link>{" "}
          and choose “Put on a bed”, or do so from a plan's desk.
        </p>
      ) : (
        <table className="card w-full border-collapse">
          <thead>
            <tr className="narrow text-left text-[13px] text-ink-3">
              <th className="p-2">bed</th>
              <th className="p-2">parts</th>
              <th className="p-2">on</th>
              <th className="p-2 text-right">placings</th>
              <th className="p-2 text-right">time h:min</th>
              <th className="p-2 text-right">filament g</th>
              <th className="p-2">state</th>
              <th className="p-2" />
            </tr>
          </thead>
          <tbody>
            {beds.data.map((bed) => (
              <tr key={bed.id} className="border-t border-hairline hover:bg-paper">
                <td className="p-2 font-semibold">
                  <Link className="text-fjord underline" to={`/beds/${bed.id}`}>
                    {bed.name || `Bed ${bed.number}`}
                  </Link>
                </td>
                <td className="p-2">{bed.parts.join(", ")}</td>
                <td className="p-2">{bed.machine}</td>
                <td className="p-2 text-right">{bed.placings}</td>
                <td className="p-2 text-right">
                  {bed.time_s === null ? "–" : hours(bed.time_s)}
                </td>
                <td className="p-2 text-right">
                  {bed.mass_g === null ? "–" : grams(bed.mass_g)}
                </td>
                <td className="p-2">
                  {OPEN.includes(bed.state)
                    ? "computing …"
                    : bed.state === "done"
                      ? "exact"
                      : bed.state}
                </td>
                <td className="p-1 text-right whitespace-nowrap">
                  <button
                    className="quiet"
                    aria-label={`Copy ${bed.name || `bed ${bed.number}`}`}
                    onClick={() => copy.mutate(bed.id)}
                  >
                    copy
                  </button>{" "}
                  <button
                    className="quiet"
                    aria-label={`Remove ${bed.name || `bed ${bed.number}`}`}
                    onClick={() => confirm("Remove this bed?") && remove.mutate(bed.id)}
                  >
                    ×
                  </button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </main>
  );
}
