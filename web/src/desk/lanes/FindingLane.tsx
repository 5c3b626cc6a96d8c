import type { Finding } from "../../api/client";
import { SHEET, TONES } from "../../tokens";

/** A mark is left out if another one is closer than this (px). */
const APART = 11;
/** Places of a finding with gaps of at most so many px are drawn as one mark with a line. */
const RUN = 30;
const ORDER = { stop: 0, look: 1, note: 2 };

/**
 * Groups the places of a finding into runs along the height. Each run has its first place, where it
 * begins and ends (px), and the number of places in it.
 */
function runsOf(
  spots: readonly (readonly number[])[],
  place: { at: (z: number) => number; left: number; right: number },
) {
  const runs: { spot: readonly number[]; x: number; end: number; count: number }[] = [];
  for (const spot of [...spots].sort((a, b) => (a[2] ?? 0) - (b[2] ?? 0))) {
    const x = place.at(spot[2] ?? 0);
    if (x < place.left || x > place.right) continue;
    const last = runs[runs.length - 1];
    if (last && x - last.end <= RUN) {
      last.end = x;
      last.count += 1;
    } else runs.push({ spot, x, end: x, count: 1 });
  }
  return runs;
}

/**
 * Findings where they are along the height: a square stops, a triangle wants a look, a disc is a
 * note. The list says them in words.
 */
export function FindingLane({
  findings,
  place,
  y,
  onGo,
}: {
  findings: Finding[];
  place: { at: (z: number) => number; left: number; right: number };
  y: number;
  onGo: (finding: Finding, place: readonly number[]) => void;
}) {
  const taken: number[] = [];
  const marks = [...findings]
    .sort((a, b) => ORDER[a.severity] - ORDER[b.severity])
    .flatMap((finding) => {
      const every = finding.places.length
        ? finding.places
        : finding.z_mm === null
          ? []
          : [[0, 0, finding.z_mm]];
      // a note is marked once: what it says often holds all along the part
      const spots = finding.severity === "note" ? every.slice(0, 1) : every;
      return runsOf(spots, place).flatMap((run) => {
        if (taken.some((other) => Math.abs(other - run.x) < APART)) return [];
        taken.push(run.x);
        return [{ finding, ...run }];
      });
    });
  return (
    <g aria-label="Findings along the height">
      {marks.map(({ finding, spot, x, end, count }) => (
        <g
          key={`${finding.code} ${x}`}
          data-mark={finding.code}
          className="cursor-pointer"
          transform={`translate(${x} ${y})`}
          onPointerDown={(event) => event.stopPropagation()}
          onClick={() => onGo(finding, spot)}
        >
          {end > x + APART && (
            <>
              <path d={`M8 0H${end - x}`} stroke={TONES[finding.severity]} strokeWidth={2} />
              <text x={9} y={-4} fontSize={11} fill={TONES[finding.severity]}>
                {count}
              </text>
            </>
          )}
          <rect x={-6} y={-9} width={12} height={15} fill="transparent" />
          <path
            d={
              finding.severity === "stop"
                ? "M-5-5h10v10h-10z"
                : finding.severity === "look"
                  ? "M0-6L6 5H-6z"
                  : "M-4.5 0a4.5 4.5 0 1 0 9 0a4.5 4.5 0 1 0-9 0z"
            }
            fill={TONES[finding.severity]}
            stroke={SHEET}
          />
          <title>
            {`${finding.severity} at ${(spot[2] ?? 0).toFixed(2)} mm` +
              `${count > 1 ? ` and ${count - 1} more places` : ""}: ${finding.message}`}
          </title>
        </g>
      ))}
    </g>
  );
}
