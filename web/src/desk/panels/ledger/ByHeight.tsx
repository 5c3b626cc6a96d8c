import { clsx } from "clsx";
import { useState } from "react";

import type { Schemas } from "../../../api/client";
import { grams, plain, span } from "../../../format";
import { FEATURES, type Feature } from "../../../tokens";

type Ledger = Schemas["Ledger"];

/**
 * Time by stretches of height, bed at the left, stacked by feature; a bar leads to its place in the
 * lanes.
 */
export function ByHeight({
  ledger,
  toHeight,
  stale,
}: {
  ledger: Ledger;
  toHeight: (z: number) => void;
  stale: boolean;
}) {
  const [over, setOver] = useState<number | null>(null);
  const rows = ledger.heights;
  const longest = Math.max(...rows.map((row) => row.seconds), 1);
  const shown = rows[over ?? rows.findIndex((row) => row.seconds === longest)] ?? rows[0];
  const kinds = [...new Set(rows.flatMap((row) => Object.keys(row.by_feature)))] as Feature[];
  return (
    <div className={stale ? "opacity-60" : ""}>
      <div
        className="flex h-36 items-end gap-px border-b border-edge"
        role="list"
        aria-label="Time by height, from the bed up"
      >
        {rows.map((row, k) => (
          <button
            key={k}
            role="listitem"
            data-stretch={k}
            className={clsx(
              "flex h-full min-w-0 flex-1 flex-col-reverse border-0 bg-transparent",
              "p-0",
              over === k ? "bg-paper" : "",
            )}
            aria-label={
              `${plain(row.from_mm)} to ${plain(row.to_mm)} mm: ` +
              `${span(row.seconds)}, ${grams(row.grams)} g`
            }
            onMouseEnter={() => setOver(k)}
            onFocus={() => setOver(k)}
            onClick={() => toHeight((row.from_mm + row.to_mm) / 2)}
          >
            {kinds
              .filter((kind) => row.by_feature[kind])
              .map((kind) => (
                <span
                  key={kind}
                  aria-hidden
                  className="block w-full shrink-0"
                  style={{
                    height: `${(100 * (row.by_feature[kind] ?? 0)) / longest}%`,
                    background: FEATURES[kind].colour,
                  }}
                />
              ))}
          </button>
        ))}
      </div>
      <p className="narrow flex justify-between text-[12px] text-ink-3">
        <span>bed</span>
        <span>tallest bar {span(longest)}</span>
        <span>{plain(Number((rows.at(-1)?.to_mm ?? 0).toFixed(2)))} mm</span>
      </p>
      {shown && (
        <p className="mt-1 text-[13px]">
          <b>
            {plain(Number(shown.from_mm.toFixed(2)))} to{" "}
            {plain(Number(shown.to_mm.toFixed(2)))} mm: {span(shown.seconds)},{" "}
            {grams(shown.grams)} g
          </b>{" "}
          {Object.entries(shown.by_feature)
            .sort((a, b) => b[1] - a[1])
            .slice(0, 5)
            .map(([kind, seconds]) => (
              <span
                key={kind}
                className="narrow mr-2 inline-flex items-center gap-1 text-[12px] text-ink-2"
              >
                <i
                  aria-hidden
                  className="inline-block h-2.5 w-2.5"
                  style={{ background: FEATURES[kind as Feature].colour }}
                />
                {FEATURES[kind as Feature].label} {span(seconds)}
              </span>
            ))}
        </p>
      )}
    </div>
  );
}
