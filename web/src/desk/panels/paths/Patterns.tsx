import { useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";

import { api, data, type Plan, type Setting, type Tried } from "../../../api/client";
import { grams, hours, plain, signedSpan } from "../../../format";
import { type Values, withValue } from "../../state/choice";
import { Take } from "./Take";
import type { Desk } from "../../state/useDesk";

/**
 * Every infill pattern at the present density, computed exactly one after the other; nothing is
 * kept before one is taken.
 */
export function Patterns({
  plan,
  desk,
  settings,
  spec,
}: {
  plan: Plan;
  desk: Desk;
  settings: Setting[];
  spec: Values;
}) {
  const client = useQueryClient();
  const setting = settings.find((entry) => entry.name === "body.infill_pattern");
  const now = String(spec.body?.infill_pattern);
  const density = Number(spec.body?.infill_density);
  // what was tried belongs to the settings it was tried with
  const base = JSON.stringify({
    ...desk.choice,
    settings: withValue(desk.choice.settings, "body", "infill_pattern", undefined, undefined),
  });
  const key = ["patterns", plan.id, base];
  const [tried, setTried] = useState<Record<string, Tried>>(
    () => client.getQueryData(key) ?? {},
  );
  const [of, setOf] = useState(base);
  const [busy, setBusy] = useState<string | null>(null);
  const [failed, setFailed] = useState<string | null>(null);
  const stop = useRef<AbortController | null>(null);
  if (of !== base) {
    setOf(base);
    setTried(client.getQueryData(key) ?? {});
  }
  const names = setting?.choices ?? [];
  const withPattern = (name: string) => ({
    ...desk.choice,
    settings: withValue(
      desk.choice.settings,
      "body",
      "infill_pattern",
      name,
      setting?.default,
    ),
  });
  const run = async () => {
    const control = (stop.current = new AbortController());
    setFailed(null);
    let found: Record<string, Tried> = {};
    setTried(found);
    for (const name of names) {
      setBusy(name);
      try {
        const answer = await data(
          api.POST("/api/plans/{id}/try", {
            params: { path: { id: plan.id } },
            body: withPattern(name),
            signal: control.signal,
          }),
        );
        found = { ...found, [name]: answer };
        client.setQueryData(key, found);
        setTried(found);
      } catch (error) {
        if (!control.signal.aborted)
          setFailed(error instanceof Error ? error.message : String(error));
        break;
      }
    }
    setBusy(null);
  };
  const rows = names.filter((name) => tried[name]);
  const mine = tried[now];
  const fastest = Math.min(...rows.map((name) => tried[name]?.time_s ?? Infinity));
  return (
    <section aria-label="Infill patterns">
      <h3 className="font-semibold">
        Infill {plain(density)} % {now}
      </h3>
      <p className="mt-1 flex flex-wrap items-center gap-2">
        {busy === null ? (
          <button
            className="quiet"
            disabled={density <= 0 || density >= 100}
            onClick={() => void run()}
          >
            Try each pattern at {plain(density)} %
          </button>
        ) : (
          <>
            <progress
              max={names.length}
              value={names.indexOf(busy)}
              className="h-2 w-28"
              aria-label="Patterns tried"
            />{" "}
            trying {busy}{" "}
            <button className="quiet" onClick={() => stop.current?.abort()}>
              Stop
            </button>
          </>
        )}
        {(density <= 0 || density >= 100) && (
          <span className="text-ink-2">
            {density <= 0 ? "hollow" : "solid"}: every pattern comes out the same
          </span>
        )}
      </p>
      {failed && (
        <p role="alert" className="text-stop">
          {failed}
        </p>
      )}
      {rows.length > 0 && (
        <table className="narrow mt-1 w-full text-left">
          <thead>
            <tr className="text-ink-3">
              <th className="font-normal">pattern</th>
              <th className="font-normal">time h</th>
              <th className="font-normal">mass g</th>
              <th className="font-normal" title="Mean stiffness proxy, of a solid part">
                stiffness %
              </th>
              <th className="font-normal" title="Least over the height">
                least %
              </th>
              <th />
            </tr>
          </thead>
          <tbody>
            {rows.map((name) => {
              const row = tried[name] as Tried;
              return (
                <tr
                  key={name}
                  data-pattern={name}
                  className={`border-t border-hairline ${name === now ? "font-semibold" : ""}`}
                >
                  <td>{name}</td>
                  <td>
                    {hours(row.time_s)}{" "}
                    <span className="font-normal text-ink-2">
                      {name === now || !mine ? "" : signedSpan(row.time_s - mine.time_s)}
                      {row.time_s === fastest && " · least"}
                    </span>
                  </td>
                  <td>{grams(row.mass_g)}</td>
                  <td>{(100 * row.stiffness).toFixed(1)}</td>
                  <td>{(100 * row.least_stiffness).toFixed(1)}</td>
                  <td className="text-right">
                    <Take
                      label={`Take ${name}`}
                      taken={name === now}
                      onTake={() => desk.change(withPattern(name))}
                    />
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      )}
    </section>
  );
}
