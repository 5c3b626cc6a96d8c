import type { BedRoom } from "./useBed";

const SIGN = {
  stop: ["■", "stop", "text-stop"],
  look: ["▲", "look", "text-look"],
  note: ["●", "note", "text-note"],
} as const;

/** What the bed's maker should know; each entry leads to the placing it is about. */
export function BedFindings({ here }: { here: BedRoom }) {
  const { report, placings } = here;
  if (!report)
    return <p className="p-3 text-[13px] text-ink-2">Findings come with the exact bed.</p>;
  if (!report.findings.length)
    return (
      <p className="p-3 text-[13px] text-ink-2">
        Nothing found: everything stands on the bed, apart from each other, and the head
        passes.
      </p>
    );
  return (
    <ul>
      {report.findings.map((finding, k) => {
        const [sign, word, tone] = SIGN[finding.severity];
        const [x, y] = finding.at_mm ?? [];
        const at = placings.findIndex((placing) => placing.x === x && placing.y === y);
        return (
          <li
            key={k}
            data-finding={finding.code}
            className="border-b border-hairline p-2 text-[13px]"
          >
            <span className={`${tone} font-semibold`}>
              <span aria-hidden>{sign}</span> {word}
            </span>{" "}
            {finding.message}
            {finding.help && <span className="block text-ink-2">{finding.help}</span>}
            {at >= 0 && (
              <button className="word mt-0.5" onClick={() => here.pick(at)}>
                show {at + 1}
              </button>
            )}
          </li>
        );
      })}
    </ul>
  );
}
