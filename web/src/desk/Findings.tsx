import type { Finding } from "../api/client";

const SIGN = { stop: ["■", "stop", "text-stop"], look: ["▲", "look", "text-look"], note: ["●", "note", "text-note"] } as const;

/** What was computed that the maker should know; each entry leads to its height. */
export function Findings({ findings, onGo }: { findings: Finding[]; onGo: (z: number) => void }) {
  if (!findings.length) return <p className="p-4 text-ink-2">Nothing found: every outline is laid, starts on something, and no layer is too fast.</p>;
  const order = { stop: 0, look: 1, note: 2 };
  return (
    <ul>
      {[...findings].sort((a, b) => order[a.severity] - order[b.severity]).map((finding) => {
        const [sign, word, tone] = SIGN[finding.severity];
        const z = finding.z_mm;
        return (
          <li key={finding.code} className="flex gap-2 border-b border-hairline p-3">
            <span className={`${tone} font-semibold whitespace-nowrap`}><span aria-hidden>{sign}</span> {word}</span>
            <span className="flex-1">{finding.message}</span>
            {z !== null && <button className="quiet" onClick={() => onGo(z)}>{z.toFixed(2)} mm</button>}
          </li>
        );
      })}
    </ul>
  );
}
