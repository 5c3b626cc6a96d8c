import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type SyntheticEvent, useState } from "react";

import { api, data, type Finding, type Plan, type Setting } from "../../api/client";
import { signedMass, signedSpan } from "../../format";
import { acknowledgementOf } from "../state/acknowledged";
import { inWords } from "../state/recipes";
import { withValue } from "../state/choice";
import type { Desk } from "../state/useDesk";
import type { Sight } from "../state/useSight";
import { useQuick } from "../state/useQuick";
import { useRoom } from "../state/room";

const SIGN = {
  stop: ["■", "stop", "text-stop"],
  look: ["▲", "look", "text-look"],
  note: ["●", "note", "text-note"],
} as const;
const ORDER = { stop: 0, look: 1, note: 2 };

/**
 * What was computed that the maker should know: every entry leads to its place, says what would
 * help, and can be acknowledged.
 */
export function Findings() {
  const { plan, desk, settings, findings, sight, marks } = useRoom();
  const leads = findings.filter((finding) => !finding.below);
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
      {leads
        .sort((a, b) => ORDER[a.severity] - ORDER[b.severity])
        .map((finding) => (
          <Entry
            key={finding.code}
            plan={plan}
            desk={desk}
            settings={settings}
            finding={finding}
            below={findings.filter((other) => other.below === finding.code)}
            sight={sight}
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
  below,
  sight,
  onRegion,
}: {
  plan: Plan;
  desk: Desk;
  settings: Setting[];
  finding: Finding;
  /** Other findings with the same cause, listed below it. */
  below: Finding[];
  sight: Sight;
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
    <li
      className="border-b border-hairline p-3"
      data-finding={finding.code}
      {...pointing(sight, finding)}
    >
      <div className="flex gap-2">
        <span className={`${tone} font-semibold whitespace-nowrap`}>
          <span aria-hidden>{sign}</span> {word}
        </span>
        <span className={`flex-1 ${known ? "text-ink-2" : ""}`}>{finding.message}</span>
        <Where finding={finding} sight={sight} />
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
        <Places finding={finding} sight={sight} />
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
      {below.length > 0 && (
        <ul aria-label="With the same cause" className="mt-2 border-l-2 border-hairline pl-2">
          {below.map((other) => (
            <li
              key={other.code}
              data-finding={other.code}
              className="py-0.5 text-[13px] text-ink-2"
              {...pointing(sight, other)}
            >
              <div className="flex gap-2">
                <span className="flex-1">{other.message}</span>
                <Where finding={other} sight={sight} />
              </div>
              <Places finding={other} sight={sight} />
            </li>
          ))}
        </ul>
      )}
    </li>
  );
}

/** Handlers that mark the places of a finding on the stage while it is pointed at or focused. */
function pointing(sight: Sight, finding: Finding) {
  const on = (event: SyntheticEvent) => {
    event.stopPropagation();
    sight.point(finding.code);
  };
  return { onMouseOver: on, onFocus: on, onMouseLeave: () => sight.point(null) };
}

/** A button with the height of a finding's worst place; it turns the stage to that place. */
function Where({ finding, sight }: { finding: Finding; sight: Sight }) {
  const { z_mm: z, at_mm: at } = finding;
  if (z === null) return null;
  return (
    <button
      className="quiet self-start whitespace-nowrap"
      onClick={() => (at ? sight.toFinding(finding, at) : sight.toHeight(z))}
    >
      {z.toFixed(2)} mm
    </button>
  );
}

/** Buttons that step through the places of a finding, beginning with the worst. */
function Places({ finding, sight }: { finding: Finding; sight: Sight }) {
  const [shown, setShown] = useState(0);
  const { places, count } = finding;
  const last = places.length - 1;
  if (last < 1) return null;
  const at = Math.min(shown, last);
  const step = (by: number) => {
    const next = (at + by + places.length) % places.length;
    setShown(next);
    sight.toFinding(finding, places[next] ?? []);
  };
  return (
    <span className="narrow text-[12px] whitespace-nowrap text-ink-2">
      <button className="quiet" aria-label="Place before" onClick={() => step(-1)}>
        ‹
      </button>{" "}
      place {at + 1} of {places.length}
      {count > places.length && ` worst of ${count.toLocaleString("en")}`}
      {", "}
      {(places[at]?.[2] ?? 0).toFixed(2)} mm{" "}
      <button className="quiet" aria-label="Next place" onClick={() => step(1)}>
        ›
      </button>
    </span>
  );
}

/** A proposed value as the settings call it: "Brim 5 mm", "Supports on". */
function words(settings: Setting[], name: string, value: unknown): string {
  const setting = settings.find((entry) => entry.name === name);
  return `${setting?.label ?? name} ${inWords(value, setting?.unit ?? "")}`;
}
