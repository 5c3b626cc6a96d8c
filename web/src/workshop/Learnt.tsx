import { useMutation, useQueryClient } from "@tanstack/react-query";

import { api, data, type Machine } from "../api/client";

/** What a machine's finished jobs told about its estimates, and the way back. */
export function Learnt({ machine }: { machine: Machine }) {
  const client = useQueryClient();
  const set = useMutation({
    mutationFn: (on: boolean) =>
      data(
        (on ? api.POST : api.DELETE)("/api/machines/{id}/learnt", {
          params: { path: { id: machine.id } },
        }),
      ),
    onSuccess: () => client.invalidateQueries({ queryKey: ["machines"] }),
  });
  const { learnt } = machine;
  if (!learnt)
    return (
      <p className="text-[13px] text-ink-2">
        Estimates: as it states itself
        {machine.learnt_off
          ? "; it does not learn from its jobs "
          : "; three finished jobs with their time correct them "}
        <button className="quiet" onClick={() => set.mutate(true)}>
          {machine.learnt_off ? "learn from its jobs" : "look again"}
        </button>
      </p>
    );
  const share = Math.round(1000 * Math.abs(learnt.before)) / 10;
  return (
    <p className="text-[13px]" data-learnt={machine.name}>
      Estimates of this machine ran{" "}
      <b>
        {share} % {learnt.before > 0 ? "short" : "long"}
      </b>
      ; corrected from {learnt.jobs} jobs: it reaches {Math.round(100 * learnt.factor)} % of
      its accelerations and takes {learnt.layer_s.toFixed(2)} s more a layer; now within ±
      {(100 * learnt.spread).toFixed(1)} %{" "}
      <button className="quiet" onClick={() => set.mutate(false)}>
        take back
      </button>
    </p>
  );
}
