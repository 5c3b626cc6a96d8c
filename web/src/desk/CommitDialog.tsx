import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Dialog } from "radix-ui";
import { useState } from "react";
import { useNavigate } from "react-router";

import { api, data, type Finding, type Plan } from "../api/client";
import { useWorkshop } from "../api/hooks";
import { euro, grams, hours, metres } from "../format";
import { Sheet } from "../frame/Sheet";
import { acknowledgementOf } from "./acknowledged";

/** The last check before a plan becomes a job: figures, findings, and the name of the file. */
export function CommitDialog({ plan, onClose }: { plan: Plan; onClose: () => void }) {
  const workshop = useWorkshop();
  const [own, setOwn] = useState<string | null>(null);
  const template = own ?? workshop.data?.name_template ?? "";
  const version = plan.latest;
  const navigate = useNavigate();
  const client = useQueryClient();
  const name = useQuery({
    queryKey: ["name", version.id, template],
    queryFn: () => data(api.POST("/api/versions/{id}/name", { params: { path: { id: version.id } }, body: { template } })),
    enabled: template !== "",
    retry: false,
    placeholderData: (before) => before,
  });
  const commit = useMutation({
    mutationFn: () => data(api.POST("/api/jobs", { body: { version: version.id, template } })),
    onSuccess: () => {
      void client.invalidateQueries({ queryKey: ["jobs"] });
      void navigate("/jobs");
    },
  });
  const report = version.report;
  if (!report) return null;
  const reasonFor = (finding: Finding) => acknowledgementOf(plan, finding)?.reason;
  const stopped = report.findings.some((finding) => finding.severity === "stop" && !reasonFor(finding));
  const worth = report.findings.filter((finding) => finding.severity !== "note");
  return (
    <Sheet title={`Commit ${plan.part.name}, plan ${plan.number} version ${version.number}`} onClose={onClose} wide>
      <p className="mt-2 text-[22px] font-semibold">
        {hours(report.time_s.total)} h · {grams(report.filament.mass_g)} g <span className="text-base font-normal text-ink-2">{metres(report.filament.length_mm)} m, {euro(report.filament.cost)}, {report.layers.count} layers</span>
      </p>
      {report.filament.spool && (
        <p className={report.filament.spool.parts < 1 ? "text-stop" : "text-ink-2"}>
          {report.filament.spool.parts < 1 ? "The spool does not hold enough for one." : `The spool holds ${report.filament.spool.parts} of these and ${grams(report.filament.spool.left_over_g)} g would be left over.`}
        </p>
      )}
      <h3 className="mt-3 font-semibold">Last check</h3>
      {worth.length === 0 ? <p className="text-ink-2">Nothing to look at.</p> : (
        <ul className="list-disc pl-5">{worth.map((finding) => <li key={finding.code} className={finding.severity === "stop" ? "text-stop" : ""}><b>{finding.severity}</b> {finding.message}{reasonFor(finding) && <span className="text-ink-2"> Acknowledged: {reasonFor(finding)}</span>}</li>)}</ul>
      )}
      <label className="mt-3 flex flex-col gap-1 text-[13px]">
        File name, from the workshop's template
        <input className="field" value={template} aria-invalid={!!name.error} onChange={(event) => setOwn(event.target.value)} />
      </label>
      {name.error ? <p role="alert" className="text-[13px] text-stop">{name.error.message}</p> : (
        <p className="text-[13px]"><code data-file-name>{name.data?.file_name ?? "…"}</code> <span className="text-ink-2">{name.data && `${name.data.file_name.length} of ${name.data.limit} characters the display shows`}</span></p>
      )}
      {stopped && <p className="mt-2 text-stop">What says stop has to be put right, or acknowledged with a reason under Findings, before this can be committed.</p>}
      {commit.error && <p role="alert" className="mt-2 text-stop">{commit.error.message}</p>}
      <div className="mt-4 flex justify-end gap-2">
        <Dialog.Close className="quiet min-h-8">Not yet</Dialog.Close>
        <button className="action" disabled={commit.isPending || !!name.error || stopped} onClick={() => commit.mutate()}>Commit job</button>
      </div>
    </Sheet>
  );
}
