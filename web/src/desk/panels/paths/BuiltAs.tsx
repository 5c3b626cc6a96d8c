import { useQuery } from "@tanstack/react-query";
import { useState } from "react";

import { api, data, type Plan, type Setting, type Tried } from "../../../api/client";
import { grams, hours, plain, signedSpan } from "../../../format";
import { NumberField } from "../NumberField";
import { type Band, bandsOf, withBands } from "../places/places";
import { inWords } from "../../state/recipes";
import { type Choice, type Values, withValue, withValues } from "../../state/choice";
import { Take } from "./Take";
import type { Desk } from "../../state/useDesk";

const WAYS = {
  ordinary: "ordinary",
  spiral: "one spiral",
  "open-vessel": "open vessel",
} as const;
type Way = keyof typeof WAYS;

/**
 * How the part is built: the vase check as a sentence with a jump to its height, ways on, what is
 * set aside, and the ways compared.
 */
export function BuiltAs({
  plan,
  desk,
  settings,
  spec,
  onHeight,
}: {
  plan: Plan;
  desk: Desk;
  settings: Setting[];
  spec: Values;
  onHeight: (z: number) => void;
}) {
  const own = desk.choice.settings.body ?? {};
  const way = (own.build ?? "ordinary") as Way;
  const width = Number(own.outer_width ?? spec.body?.outer_width ?? 0.45);
  // the check asks about the part as a whole: what it is built as now makes no difference
  const asked: Choice = {
    ...withBands(
      desk.choice,
      bandsOf(desk.choice).filter((band) => !band.changes?.["body.build"]),
    ),
  };
  const question = {
    ...asked,
    settings: withValues(asked.settings, "body", { build: undefined, rim: undefined }),
  };
  const check = useQuery({
    queryKey: ["vase", plan.id, JSON.stringify(question)],
    queryFn: () =>
      data(
        api.POST("/api/plans/{id}/vase", {
          params: { path: { id: plan.id } },
          body: question,
        }),
      ),
    retry: false,
    staleTime: Infinity,
    placeholderData: (before) => before,
  });
  const found = check.data;
  const set = (values: Record<string, unknown>): Choice => ({
    ...desk.choice,
    settings: withValues(desk.choice.settings, "body", values),
  });
  const take = (change: Record<string, unknown>) => {
    const { "surface.bands": band, ...rest } = change as Record<string, unknown> & {
      "surface.bands"?: Band;
    };
    let next = withBands(
      desk.choice,
      bandsOf(desk.choice).filter((entry) => entry.changes?.["body.build"] === undefined),
    );
    for (const [name, value] of Object.entries(rest)) {
      const [group = "", key = ""] = name.split(".");
      next = {
        ...next,
        settings: withValue(
          next.settings,
          group,
          key,
          value,
          key === "build" ? "ordinary" : undefined,
        ),
      };
    }
    desk.change(band ? withBands(next, [...bandsOf(next), band]) : next);
  };
  const aside = found?.aside[way] ?? [];
  return (
    <section aria-label="Built as">
      <h3 className="font-semibold">Built as</h3>
      <p className="mt-1 flex flex-wrap items-center gap-2">
        <span className="flex" role="group" aria-label="Way of building">
          {(Object.keys(WAYS) as Way[]).map((name) => (
            <button
              key={name}
              className="quiet"
              aria-pressed={way === name}
              onClick={() =>
                desk.change(set({ build: name === "ordinary" ? undefined : name }))
              }
            >
              {WAYS[name]}
            </button>
          ))}
        </span>
        {way === "spiral" && (
          <>
            wall{" "}
            <NumberField
              label="Spiral wall width"
              unit="mm, one bead"
              value={width}
              min={0.1}
              max={4}
              step={0.05}
              width="w-14"
              onValue={(v) => v && desk.change(set({ outer_width: v }))}
            />
          </>
        )}
      </p>
      {check.error && (
        <p className="mt-1 text-ink-2">The check waits for settings that agree.</p>
      )}
      {found && (
        <p className="mt-1" data-vase={found.suits ? "suits" : "not"}>
          <span aria-hidden className={found.suits ? "text-fjord" : "text-look"}>
            {found.suits ? "◆ " : "▲ "}
          </span>
          {found.sentence}{" "}
          {found.breaks[0] && (
            <button className="quiet" onClick={() => onHeight(found.breaks[0]?.z ?? 0)}>
              go to {found.breaks[0].z.toFixed(2)} mm
            </button>
          )}
        </p>
      )}
      {found && found.breaks.length > 1 && (
        <p className="narrow text-ink-2">
          also:{" "}
          {found.breaks.slice(1).map((entry, k) => (
            <span key={k}>
              {k > 0 && "; "}at{" "}
              <button className="word" onClick={() => onHeight(entry.z)}>
                {entry.z.toFixed(2)} mm
              </button>{" "}
              {entry.reason}
            </span>
          ))}
        </p>
      )}
      {found && !found.suits && (
        <p className="mt-1 flex flex-wrap gap-1">
          {found.offers.map((offer) => (
            <button
              key={offer.words}
              className="quiet text-left"
              onClick={() => take(offer.change)}
            >
              {offer.words}
            </button>
          ))}
        </p>
      )}
      {way !== "ordinary" && aside.length > 0 && (
        <details className="mt-1" open>
          <summary>{aside.length} settings set aside; they come back with “ordinary”</summary>
          <ul className="narrow" data-aside>
            {aside.map((entry) => {
              const setting = settings.find((other) => other.name === entry.name);
              return (
                <li key={entry.name}>
                  {setting?.label ?? entry.name}:{" "}
                  <b>{inWords(entry.value, setting?.unit ?? "")}</b>{" "}
                  <span className="text-ink-3">{entry.because}</span>
                </li>
              );
            })}
          </ul>
        </details>
      )}
      <Compared
        plan={plan}
        desk={desk}
        way={way}
        suits={found?.suits ?? false}
        withWay={(name) => set({ build: name === "ordinary" ? undefined : name })}
      />
    </section>
  );
}

/**
 * The ways of building against each other in exact figures, in one step; nothing is kept before one
 * is taken.
 */
function Compared({
  plan,
  desk,
  way,
  suits,
  withWay,
}: {
  plan: Plan;
  desk: Desk;
  way: Way;
  suits: boolean;
  withWay: (way: Way) => Choice;
}) {
  const [tried, setTried] = useState<{
    of: string;
    rows: Partial<Record<Way, Tried | string>>;
    busy: boolean;
  }>({ of: "", rows: {}, busy: false });
  const of = JSON.stringify(withWay("ordinary"));
  const ways = (Object.keys(WAYS) as Way[]).filter(
    (name) => name !== "spiral" || suits || way === "spiral",
  );
  const run = async () => {
    const rows: Partial<Record<Way, Tried | string>> = {};
    for (const name of ways) {
      setTried({ of, rows: { ...rows }, busy: true });
      try {
        rows[name] = await data(
          api.POST("/api/plans/{id}/try", {
            params: { path: { id: plan.id } },
            body: withWay(name),
          }),
        );
      } catch (error) {
        rows[name] = error instanceof Error ? error.message : String(error);
      }
    }
    setTried({ of, rows, busy: false });
  };
  const now = tried.rows[way];
  const base = typeof now === "object" ? now : null;
  return (
    <div className="mt-1">
      <button className="quiet" disabled={tried.busy} onClick={() => void run()}>
        {tried.busy ? "Computing …" : "Compare the ways"}
      </button>
      {tried.of === of && Object.keys(tried.rows).length > 0 && (
        <table className="narrow mt-1 w-full text-left">
          <thead>
            <tr className="text-ink-3">
              <th className="font-normal">built as</th>
              <th className="font-normal">time h</th>
              <th className="font-normal">mass g</th>
              <th className="font-normal">wall mm</th>
              <th className="font-normal" title="How often an outer wall begins">
                seams
              </th>
              <th
                className="font-normal"
                title="Mean stiffness proxy, of a solid part; no simulation"
              >
                stiffness %
              </th>
              <th />
            </tr>
          </thead>
          <tbody>
            {ways.map((name) => {
              const row = tried.rows[name];
              if (row === undefined)
                return (
                  <tr key={name}>
                    <td>{WAYS[name]}</td>
                    <td colSpan={6}>…</td>
                  </tr>
                );
              if (typeof row === "string")
                return (
                  <tr key={name}>
                    <td>{WAYS[name]}</td>
                    <td colSpan={6} className="text-stop">
                      {row}
                    </td>
                  </tr>
                );
              return (
                <tr
                  key={name}
                  data-way={name}
                  className={`border-t border-hairline ${name === way ? "font-semibold" : ""}`}
                >
                  <td>{WAYS[name]}</td>
                  <td>
                    {hours(row.time_s)}{" "}
                    <span className="font-normal text-ink-2">
                      {name === way || !base ? "" : signedSpan(row.time_s - base.time_s)}
                    </span>
                  </td>
                  <td>{grams(row.mass_g)}</td>
                  <td>{plain(Number(row.wall_thickness_mm.toFixed(2)))}</td>
                  <td>{row.seams}</td>
                  <td>{(100 * row.stiffness).toFixed(1)}</td>
                  <td className="text-right">
                    <Take
                      label={`Build as ${WAYS[name]}`}
                      taken={name === way}
                      onTake={() => desk.change(withWay(name))}
                    />
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      )}
    </div>
  );
}
