import { clsx } from "clsx";
import { useState } from "react";

import { euro, span } from "../../../format";
import { ByBand } from "./ByBand";
import { ByFeature } from "./ByFeature";
import { ByHeight } from "./ByHeight";
import { Caps } from "./Caps";
import { SpoolReach } from "./SpoolReach";
import { useRoom } from "../../state/room";

const WAYS = ["by feature", "by height", "by band"] as const;

/**
 * Where the time goes, with grams and money; the floor no speed can beat; caps; and how far the
 * spool reaches.
 */
export function LedgerPanel() {
  const { plan, desk, settings, findings, sight: go } = useRoom();
  const [way, setWay] = useState<(typeof WAYS)[number]>("by feature");
  const { figures, report } = desk;
  if (!figures) return <p className="p-4 text-ink-2">The first figures are on their way.</p>;
  const exact = figures.state === "exact" ? report : null;
  const floor = report?.time_s.flow_floor;
  const shares = report?.filament.cost_shares;
  const work = plan.experience;
  return (
    <div className="flex flex-col gap-3 p-3">
      <div className="flex flex-wrap items-center gap-2">
        <span className="flex" role="group" aria-label="Told apart">
          {WAYS.map((name) => (
            <button
              key={name}
              className="quiet"
              aria-pressed={way === name}
              onClick={() => setWay(name)}
            >
              {name}
            </button>
          ))}
        </span>
        {floor !== undefined && (
          <p className="ml-auto text-[13px]" data-floor>
            flow floor <b>{span(floor)}</b>{" "}
            <span className="text-ink-2">
              · the plan takes {(figures.time / Math.max(floor, 1)).toFixed(1)} times that
            </span>
          </p>
        )}
      </div>
      {way === "by feature" && <ByFeature figures={figures} report={exact} go={go} />}
      {way === "by height" &&
        (report ? (
          <ByHeight ledger={report.ledger} toHeight={go.toHeight} stale={!exact} />
        ) : (
          <Later />
        ))}
      {way === "by band" &&
        (report ? (
          <ByBand ledger={report.ledger} toHeight={go.toHeight} stale={!exact} />
        ) : (
          <Later />
        ))}
      {shares && (
        <p className="narrow text-[13px] text-ink-2" data-money>
          <b className={clsx("text-ink")}>{euro(figures.cost + work.finishing_cost)}</b> a
          part: filament {euro(shares.material)}, machine {euro(shares.machine)}, electricity{" "}
          {euro(shares.power)}, failed prints {euro(shares.failed)}
          {work.jobs > 0 &&
            `, finishing ${euro(work.finishing_cost)} ` +
              `(${Math.round(work.finishing_min)} min, from ${work.jobs} ` +
              `${work.jobs === 1 ? "job" : "jobs"}: ${work.good} good, ${work.flaws} ` +
              `with flaws, ${work.failed} failed)`}
        </p>
      )}
      <Caps desk={desk} settings={settings} findings={findings} />
      <SpoolReach key={plan.exact?.id ?? 0} plan={plan} desk={desk} />
    </div>
  );
}

const Later = () => <p className="text-ink-2">This comes with the exact plan.</p>;
