import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { api, data } from "../../../api/client";
import { grams, hours } from "../../../format";
import { withValue } from "../../state/choice";
import type { Desk } from "../../state/useDesk";

const KINDS = [
  ["straight", "straight down"],
  ["branching", "branching"],
] as const;
type Kind = (typeof KINDS)[number][0];

/** Straight or branching stands, with what a plan with either comes to beside each other. */
export function KindOfStand({ plan, desk }: { plan: number; desk: Desk }) {
  const [asked, setAsked] = useState(false);
  const now: Kind =
    desk.choice.settings.supports?.kind === "branching" ? "branching" : "straight";
  const with_ = (kind: Kind) =>
    withValue(desk.choice.settings, "supports", "kind", kind, "straight");
  return (
    <div role="radiogroup" aria-label="Kind of stand" className="mt-1 flex flex-col gap-0.5">
      {KINDS.map(([kind, word]) => (
        <label key={kind} className="flex items-center gap-1">
          <input
            type="radio"
            className="accent-ink"
            name="kind-of-stand"
            checked={now === kind}
            onChange={() => desk.change({ ...desk.choice, settings: with_(kind) })}
          />
          <span className="w-24">{word}</span>
          {asked && <Tried plan={plan} desk={desk} settings={with_(kind)} />}
        </label>
      ))}
      {!asked && (
        <button className="quiet self-start" onClick={() => setAsked(true)}>
          what either takes
        </button>
      )}
    </div>
  );
}

/** The exact figures of one of them. */
function Tried({
  plan,
  desk,
  settings,
}: {
  plan: number;
  desk: Desk;
  settings: Desk["choice"]["settings"];
}) {
  const { nozzle, material, spool } = desk.choice;
  const body = { settings, nozzle, material, spool };
  const tried = useQuery({
    queryKey: ["try", plan, JSON.stringify(body)],
    queryFn: ({ signal }) =>
      data(api.POST("/api/plans/{id}/try", { params: { path: { id: plan } }, body, signal })),
    staleTime: Infinity,
    retry: false,
  });
  if (tried.error) return <span className="text-stop">{tried.error.message}</span>;
  if (!tried.data) return <span className="text-ink-2">computing …</span>;
  return (
    <span>
      <b>{hours(tried.data.time_s)} h</b>, {grams(tried.data.mass_g)} g in all
    </span>
  );
}
