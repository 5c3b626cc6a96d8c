import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, data, type Finding, type Plan, type Setting } from "../../api/client";
import { signedMass, signedSpan } from "../../format";
import { acknowledgementOf } from "../state/acknowledged";
import { inWords } from "../state/recipes";
import { withValue } from "../state/choice";
import type { Desk } from "../state/useDesk";
import { useQuick } from "../state/useQuick";
import { useRoom } from "../state/room";

const SIGN = {
  stop: ["■", "stop", "text-stop"],
  look: ["▲", "look", "text-look"],
  note: ["●", "note", "text-note"],
} as const;
/** Further places of a finding that are listed. */
const MOST = 6;
const ORDER = { stop: 0, look: 1, note: 2 };

/**
 * What was computed that the maker should know: every entry leads to its place, says what would
 * help, and can be acknowledged.
 */
export function Findings() {
  const { plan, desk, settings, findings, sight, marks } = useRoom();
  if (!desk.report)
    return <p className="p-4 text-ink-2">Findings come with the exact plan.</p>;
  if (!findings.length)
    return (
      <p className="p-4 text-ink-2">
        Nothing found: every outline is laid, starts on something, and no layer is too fast.
      </p>
    );
  return (
    <ul>
      {[...findings]
        .sort((a, b) => ORDER[a.severity] - ORDER[b.severity])
        .map((finding) => (
          <Entry
            key={finding.code}
            plan={plan}
            desk={desk}
            settings={settings}
            finding={finding}
            onGo={sight.toFinding}
            onHeight={sight.toHeight}
            onRegion={marks.regionAt}
          />
        ))}
    </ul>
  );
}

function Entry({
  plan,
  desk,
  settings,
  finding,
  onGo,
  onHeight,
  onRegion,
}: {
  plan: Plan;
  desk: Desk;
  settings: Setting[];
  finding: Finding;
  onGo: (finding: Finding, place: readonly number[]) => void;
  onHeight: (z: number) => void;
  onRegion: ((finding: Finding) => void) | null;
}) {
  const client = useQueryClient();
  const [reason, setReason] = useState<string | null>(null);
  const [sign, word, tone] = SIGN[finding.severity];
  const known = acknowledgementOf(plan, finding);
  const keep = (changed: Plan) => {
    client.setQueryData(["plan", plan.id], changed);
    setReason(null);
  };
  const accept = useMutation({
    mutationFn: () =>
      data(
        api.POST("/api/plans/{id}/acknowledge", {
          params: { path: { id: plan.id } },
          body: { code: finding.code, reason: reason ?? "" },
        }),
      ),
    onSuccess: keep,
  });
  const takeBack = useMutation({
    mutationFn: () =>
      data(
        api.DELETE("/api/plans/{id}/acknowledge/{code}", {
          params: { path: { id: plan.id, code: finding.code } },
        }),
      ),
    onSuccess: keep,
  });
  const changes = Object.entries(finding.change);
  const helped = {
    ...desk.choice,
    settings: changes.reduce((own, [name, value]) => {
      const [group = "", key = ""] = name.split(".");
      return withValue(own, group, key, value, undefined);
    }, desk.choice.settings),
  };
  // asked once a version, not while a hand still moves
  const asked = changes.length && desk.upToDate ? [helped] : [];
  const { before, answers } = useQuick(plan.id, desk.choice, asked);
  const after = answers[0]?.data;
  return (
    <li className="border-b border-hairline p-3" data-finding={finding.code}>
      <div className="flex gap-2">
        <span className={`${tone} font-semibold whitespace-nowrap`}>
          <span aria-hidden>{sign}</span> {word}
        </span>
        <span className={`flex-1 ${known ? "text-ink-2" : ""}`}>{finding.message}</span>
        {finding.z_mm !== null && (
          <button
            className="quiet"
            onClick={() =>
              finding.at_mm ? onGo(finding, finding.at_mm) : onHeight(finding.z_mm ?? 0)
            }
          >
            {finding.z_mm.toFixed(2)} mm
          </button>
        )}
      </div>
      {finding.help && <p className="mt-1 text-[13px] text-ink-2">{finding.help}</p>}
      {known && (
        <p className="mt-1 text-[13px]">
          Acknowledged{known.by && ` by ${known.by}`}: {known.reason}{" "}
          <button className="quiet" onClick={() => takeBack.mutate()}>
            take back
          </button>
        </p>
      )}
      <div className="mt-1 flex flex-wrap gap-2">
        {finding.places.length > 1 && (
          <span className="narrow text-[12px] text-ink-3">
            also at{" "}
            {finding.places.slice(1, MOST + 1).map((place, k) => (
              <button key={k} className="quiet mr-1" onClick={() => onGo(finding, place)}>
                {(place[2] ?? 0).toFixed(2)}
              </button>
            ))}{" "}
            mm
            {finding.places.length > MOST + 1 &&
              ` and ${finding.places.length - MOST - 1} more places`}
          </span>
        )}
        {changes.length > 0 && (
          <button className="quiet" onClick={() => desk.change(helped)}>
            {changes.map(([name, value]) => words(settings, name, value)).join(", ")}
            {before && after && (
              <span className="narrow text-ink-2" title="What it costs, by quick figures">
                {" "}
                ≈ {signedSpan(after.time_s.total - before.time_s.total)},{" "}
                {signedMass(after.filament.mass_g - before.filament.mass_g)}
              </span>
            )}
          </button>
        )}
        {finding.at_mm && onRegion && (
          <button
            className="quiet"
            title="A region around its place, with settings of its own"
            onClick={() => onRegion(finding)}
          >
            region here …
          </button>
        )}
        {!known && finding.severity !== "note" && reason === null && (
          <button className="quiet" onClick={() => setReason("")}>
            acknowledge …
          </button>
        )}
      </div>
      {reason !== null && (
        <form
          className="mt-1 flex gap-2"
          onSubmit={(event) => {
            event.preventDefault();
            accept.mutate();
          }}
        >
          <input
            className="field flex-1"
            autoFocus
            aria-label="Reason"
            placeholder="why it is all right"
            maxLength={300}
            value={reason}
            onChange={(event) => setReason(event.target.value)}
          />
          <button className="quiet" disabled={!reason.trim() || accept.isPending}>
            Acknowledge
          </button>
          <button type="button" className="quiet" onClick={() => setReason(null)}>
            Not now
          </button>
        </form>
      )}
      {accept.error && (
        <p role="alert" className="text-[13px] text-stop">
          {accept.error.message}
        </p>
      )}
    </li>
  );
}

/** A proposed value as the settings call it: "Brim 5 mm", "Supports on". */
function words(settings: Setting[], name: string, value: unknown): string {
  const setting = settings.find((entry) => entry.name === name);
  return `${setting?.label ?? name} ${inWords(value, setting?.unit ?? "")}`;
}
