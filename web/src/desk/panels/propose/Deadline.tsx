import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";

import {
  api,
  data,
  type Plan,
  type Schemas,
  type Setting,
  type Turn,
} from "../../../api/client";
import { useNewBed } from "../../../beds/useNewBed";
import { hours, span, unbroken } from "../../../format";
import { clock, give } from "../../../jobs/words";
import { NumberField } from "../NumberField";
import type { Desk } from "../../state/useDesk";
import { withChanges } from "../../state/changes";

/**
 * The next moment a typed time means: 06:30 is tomorrow's once it has passed today; a date may
 * stand before it.
 */
export function momentOf(text: string, now: Date = new Date()): Date | null {
  const found = /^(?:(\d{4})-(\d{2})-(\d{2})[T ]+)?(\d{1,2})[:.](\d{2})$/.exec(text.trim());
  if (!found) return null;
  const [, year, month, day, hour, minute] = found;
  if (Number(hour) > 23 || Number(minute) > 59) return null;
  const at = year
    ? new Date(Number(year), Number(month) - 1, Number(day))
    : new Date(now.getFullYear(), now.getMonth(), now.getDate());
  at.setHours(Number(hour), Number(minute), 0, 0);
  if (!year && at <= now) at.setDate(at.getDate() + 1);
  return at;
}

/** "Free until 06:30, 4 copies": the best plan for it, or what would be needed. */
export function Deadline({
  plan,
  desk,
  settings,
}: {
  plan: Plan;
  desk: Desk;
  settings: Setting[];
}) {
  const [text, setText] = useState("");
  const [copies, setCopies] = useState(1);
  const until = momentOf(text);
  const ask = useMutation({
    mutationFn: () =>
      data(
        api.POST("/api/plans/{id}/deadline", {
          params: { path: { id: plan.id } },
          body: { until: (until ?? new Date()).toISOString(), copies },
        }),
      ),
  });
  const found = ask.data;
  return (
    <section aria-label="Deadline" className="text-[13px]">
      <form
        className="flex flex-wrap items-center gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          if (until) ask.mutate();
        }}
      >
        <h3 className="text-sm font-semibold">Free until</h3>
        <input
          className="field w-36"
          aria-label="Free until"
          placeholder="06:30"
          value={text}
          aria-invalid={text !== "" && !until}
          onChange={(event) => setText(event.target.value)}
        />
        <NumberField
          label="Copies by then"
          unit="copies"
          value={copies}
          min={1}
          max={500}
          step={1}
          width="w-12"
          onValue={(v) => setCopies(Math.round(v ?? 1))}
        />
        <button className="quiet" disabled={!until || ask.isPending || !desk.upToDate}>
          {ask.isPending ? "working it out …" : "What fits?"}
        </button>
        {until ? (
          <span className="text-ink-2">{clock(until)}</span>
        ) : (
          text !== "" && (
            <span role="alert" className="text-stop">
              a time such as 06:30, or 2026-12-01 06:30
            </span>
          )
        )}
      </form>
      {ask.error && (
        <p role="alert" className="mt-1 text-stop">
          {ask.error.message}
        </p>
      )}
      {found && (
        <div
          className="mt-1 flex flex-col gap-1"
          data-deadline={found.fits ? "fits" : "refused"}
        >
          <p className={found.fits ? "" : "text-look"}>
            <b>
              {found.fits ? "✓" : "▲"} {unbroken(found.sentence)}
            </b>
          </p>
          {found.spool && <p className="text-look">▲ {found.spool}.</p>}
          {found.needed.length > 0 && (
            <ul className="list-disc pl-5" data-needed>
              <li className="-ml-5 list-none text-ink-2">What would make it possible:</li>
              {found.needed.map((words) => (
                <li key={words}>{words}</li>
              ))}
            </ul>
          )}
          {found.plates && <OnPlates plates={found.plates} plan={plan} copies={copies} />}
          {found.shared.length > 0 && <p className="text-ink-2">Shared by the machines:</p>}
          {found.shared.map((turn) => (
            <Share key={turn.nozzle} turn={turn} plan={plan} desk={desk} settings={settings} />
          ))}
          {found.shared.length > 0 && <p className="text-ink-2">All on one machine:</p>}
          {found.machines.map((row) => (
            <p key={row.nozzle} className="flex items-center gap-2" data-on={row.machine}>
              {row.fits &&
                (Object.keys(row.change).length > 0 || row.nozzle !== desk.choice.nozzle) && (
                  <button
                    className="quiet"
                    onClick={() =>
                      desk.change({
                        ...withChanges(desk.choice, row.change, settings),
                        nozzle: row.nozzle,
                      })
                    }
                  >
                    take
                  </button>
                )}
              <span>
                <b>{row.machine}</b> free at {clock(row.free_at)}: {row.words}
                {row.fits && row.done_at && (
                  <>
                    , done {clock(row.done_at)}
                    {give(row.give_s)}, P95 {Math.round(row.p95_um ?? 0)} µm
                  </>
                )}
              </span>
            </p>
          ))}
          {found.simulated && <p className="text-ink-2">{found.simulated}</p>}
          <p className="text-ink-2">
            As it is: {found.pieces_a_day.toFixed(1)} pieces a day, {copies}{" "}
            {copies === 1 ? "is" : "are"} done {clock(found.run_done_at)}.
          </p>
        </div>
      )}
    </section>
  );
}

/** All copies on plates that hold several, laid together; one press makes the bed. */
function OnPlates({
  plates,
  plan,
  copies,
}: {
  plates: Schemas["Plates"];
  plan: Plan;
  copies: number;
}) {
  const newBed = useNewBed();
  return (
    <p className="flex flex-wrap items-center gap-2" data-plates={plates.plates}>
      <button
        className="quiet shrink-0"
        disabled={newBed.isPending}
        onClick={() =>
          newBed.mutate({ plans: [plan.id], copies: Math.min(copies, plates.holds) })
        }
      >
        {plates.plates > 1 ? "make a full bed" : "make the bed"}
      </button>
      <span>
        {plates.fits ? "✓" : "▲"} <b>{plates.words}</b>, on {plates.machine}:{" "}
        {plates.exact ? "" : "≈ "}
        {hours(plates.time_s)} h, done {clock(plates.done_at)}
        {give(plates.give_s)}
        {plates.saved_s > 60 && `, ${span(plates.saved_s)} less than one after the other`}
        {plates.plates > 1 && `; a plate holds ${plates.holds}`}
      </span>
      {newBed.error && (
        <span role="alert" className="text-stop">
          {newBed.error.message}
        </span>
      )}
    </p>
  );
}

/**
 * What one of several machines does. This plan can be that of one machine; for another it is a plan
 * of its own.
 */
function Share({
  turn,
  plan,
  desk,
  settings,
}: {
  turn: Turn;
  plan: Plan;
  desk: Desk;
  settings: Setting[];
}) {
  const path = { params: { path: { id: plan.id } } };
  const here = turn.nozzle === desk.choice.nozzle;
  const choice = { ...withChanges(desk.choice, turn.change, settings), nozzle: turn.nozzle };
  const apart = useMutation({
    mutationFn: async () => {
      const copy = await data(api.POST("/api/plans/{id}/copy", path));
      return data(
        api.PATCH("/api/plans/{id}", { params: { path: { id: copy.id } }, body: choice }),
      );
    },
  });
  return (
    <p className="flex items-center gap-2" data-share={turn.machine}>
      {here && Object.keys(turn.change).length > 0 && (
        <button className="quiet shrink-0" onClick={() => desk.change(choice)}>
          take
        </button>
      )}
      {!here && !apart.data && (
        <button
          className="quiet shrink-0"
          disabled={apart.isPending}
          onClick={() => apart.mutate()}
        >
          make its plan
        </button>
      )}
      {apart.data && (
        <Link className="shrink-0 underline" to={`/plans/${apart.data.id}`}>
          plan {apart.data.number}
        </Link>
      )}
      <span>
        <b>
          {turn.copies} on {turn.machine}
        </b>
        {here && !Object.keys(turn.change).length && ", this plan"}: {turn.words}, ≈{" "}
        {Math.round(turn.time_s / 60)} min each, done {clock(turn.done_at)}
        {give(turn.give_s)}, P95 {Math.round(turn.p95_um)} µm
      </span>
      {apart.error && (
        <span role="alert" className="text-stop">
          {apart.error.message}
        </span>
      )}
    </p>
  );
}
