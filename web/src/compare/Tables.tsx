import { clsx } from "clsx";
import type { ReactNode } from "react";

import { hours, plain, textOf } from "../format";
import { featureOf } from "../tokens";
import { type Compared, MARKS, titleOf } from "./useCompared";

/** A figure in its unit. */
function figure(value: number, unit: string): string {
  if (unit === "s") return `${hours(value)} h`;
  if (unit === "€") return `${value.toFixed(2)} €`;
  if (unit === "mm" && Math.abs(value) >= 100) return `${Math.round(value)} mm`;
  if (unit === "µm") return `${Math.round(value)} µm`;
  const digits = unit === "mm" ? 2 : unit === "g" ? 1 : Math.abs(value) < 10 ? 3 : 0;
  return plain(Number(value.toFixed(digits))) + (unit && ` ${unit}`);
}

/** A difference in its unit, with its sign; a dot for none. */
export function difference(now: number, before: number, unit: string): string {
  const off = now - before;
  const text =
    unit === "s"
      ? Math.abs(off) < 100
        ? `${Math.round(Math.abs(off))} s`
        : `${Math.round(Math.abs(off) / 60)} min`
      : figure(Math.abs(off), unit);
  return Math.abs(off) < 1e-9 || /^0(\.0+)?( |$)/.test(text)
    ? "·"
    : `${off < 0 ? "−" : "+"}${text}`;
}

export function Head({
  found,
  first = "",
  order,
  onOrder,
}: {
  found: Compared;
  first?: string;
  order?: number | null;
  onOrder?: (k: number) => void;
}) {
  return (
    <thead>
      <tr className="narrow border-b border-edge text-left text-[12px] text-ink-3">
        <th className="font-normal">{first}</th>
        {found.plans.map((plan, k) => (
          <th key={plan.version} scope="col" className="px-2 text-right font-medium text-ink">
            <svg width="22" height="6" aria-hidden className="mr-1 inline">
              <line
                x1="0"
                x2="22"
                y1="3"
                y2="3"
                stroke={MARKS[k]?.colour}
                strokeWidth="2"
                strokeDasharray={MARKS[k]?.dash}
              />
            </svg>
            {onOrder && k > 0 ? (
              <button
                className="word"
                aria-pressed={order === k}
                title="sort by its difference"
                onClick={() => onOrder(k)}
              >
                {titleOf(plan)}
              </button>
            ) : (
              titleOf(plan)
            )}
            {k === 0 && <span className="font-normal text-ink-3"> baseline</span>}
          </th>
        ))}
      </tr>
    </thead>
  );
}

/** Rows of figures: the baseline's value, and for the others theirs with the difference. */
export function Figures({
  found,
  rows,
  caption,
  first,
  unit,
  order,
  onOrder,
}: {
  found: Compared;
  rows: { key: string; label: ReactNode; values: readonly (number | null)[]; unit?: string }[];
  caption: string;
  first: string;
  unit?: string;
  order?: number | null;
  onOrder?: (k: number) => void;
}) {
  const shown = order
    ? [...rows].sort(
        (a, b) =>
          Math.abs((b.values[order] ?? 0) - (b.values[0] ?? 0)) -
          Math.abs((a.values[order] ?? 0) - (a.values[0] ?? 0)),
      )
    : rows;
  return (
    <table className="w-full text-[13px]">
      <caption className="sr-only">{caption}</caption>
      <Head
        found={found}
        first={first}
        {...(onOrder ? { order: order ?? null, onOrder } : {})}
      />
      <tbody>
        {shown.map((row) => (
          <tr key={row.key} data-row={row.key} className="border-b border-hairline">
            <th scope="row" className="py-0.5 text-left font-normal">
              {row.label}
            </th>
            {row.values.map((value, k) => {
              const of = row.unit ?? unit ?? "";
              const base = row.values[0];
              return (
                <td key={k} className="px-2 text-right whitespace-nowrap">
                  {value === null ? (
                    <span className="text-ink-3">none</span>
                  ) : (
                    <>
                      {figure(value, of)}
                      {k > 0 && base !== null && base !== undefined && (
                        <b className="ml-1.5">{difference(value, base, of)}</b>
                      )}
                    </>
                  )}
                </td>
              );
            })}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

export const featureRows = (found: Compared, key: "seconds" | "grams") =>
  found.features
    .filter((row) => key === "seconds" || row.grams.some((value) => value > 0))
    .map((row) => ({
      key: row.feature,
      values: row[key],
      label: (
        <>
          <i
            aria-hidden
            className="mr-1.5 inline-block h-2.5 w-2.5"
            style={{ background: featureOf(row.feature)?.colour }}
          />
          {featureOf(row.feature)?.label ?? row.feature}
        </>
      ),
    }));

/** Settings that differ, and only those, each with where its value comes from. */
export function Settings({ found }: { found: Compared }) {
  if (found.settings.length === 0) return <p className="text-ink-2">No setting differs.</p>;
  const word = (value: unknown) =>
    value === null
      ? "open"
      : typeof value === "number"
        ? plain(value)
        : typeof value === "boolean"
          ? value
            ? "yes"
            : "no"
          : Array.isArray(value)
            ? value.join(", ") || "none"
            : textOf(value);
  return (
    <table className="w-full text-[13px]">
      <caption className="sr-only">Settings that differ</caption>
      <Head found={found} first="setting" />
      <tbody>
        {found.settings.map((row) => (
          <tr key={row.name} data-row={row.name} className="border-b border-hairline">
            <th scope="row" className="py-0.5 text-left font-normal">
              <span className="text-ink-3">{row.group} · </span>
              {row.label}
            </th>
            {row.values.map((value, k) => (
              <td
                key={k}
                className={clsx(
                  "px-2 text-right",
                  JSON.stringify(value) === JSON.stringify(row.values[0])
                    ? "text-ink-2"
                    : "font-semibold",
                )}
              >
                {word(value)}
                {value !== null && row.unit && ` ${row.unit}`}
                <span className="narrow block text-[12px] font-normal text-ink-3">
                  {row.sources[k] === "default"
                    ? "the defaults"
                    : row.sources[k] === "plan"
                      ? "this plan"
                      : row.sources[k] === "derived"
                        ? "from limits"
                        : `the ${row.sources[k]}`}
                </span>
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** Findings that come, go, or say something else. */
export function Findings({ found }: { found: Compared }) {
  if (found.findings.length === 0)
    return <p className="text-ink-2">Every plan has the same findings.</p>;
  return (
    <table className="w-full text-[13px]">
      <caption className="sr-only">Findings that differ</caption>
      <Head found={found} first="finding" />
      <tbody>
        {found.findings.map((row) => (
          <tr
            key={row.code}
            data-row={row.code}
            className="border-b border-hairline align-top"
          >
            <th
              scope="row"
              className={clsx(
                "py-1 text-left font-medium",
                row.severity === "stop"
                  ? "text-stop"
                  : row.severity === "look"
                    ? "text-look"
                    : "text-note",
              )}
            >
              {row.severity === "stop" ? "■" : row.severity === "look" ? "▲" : "●"}{" "}
              {row.code.replaceAll("-", " ")}
            </th>
            {row.messages.map((message, k) => (
              <td key={k} className="px-2 py-1">
                {message ?? (
                  <span className="text-ink-3">
                    {k > 0 && row.messages[0] ? "gone" : "none"}
                  </span>
                )}
                {k > 0 && message && !row.messages[0] && <b className="ml-1">new</b>}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}
