import { clsx } from "clsx";

import { grams, hours, signedMass, signedSpan } from "../format";
import type { Way } from "./useWays";

/** One way up: how it would stand, what it costs, and how that differs from the present way. */
export function WayCard({
  way,
  place,
  best,
  takes,
  onTake,
}: {
  way: Way;
  /** Its place in the order, from 1. */
  place: number;
  best: boolean;
  takes: boolean;
  onTake: () => void;
}) {
  const now = way.way === 0;
  const { differs } = way;
  const needs = way.support_mm3 > 1;
  const falls = way.tips_at_deg <= 0;
  return (
    <li
      data-way={way.way}
      aria-label={`Way ${place}${now ? ", as it stands now" : ""}`}
      className={clsx("card flex flex-col gap-1 p-3", best && "outline-2 outline-ink")}
    >
      <div className="flex gap-2">
        <img
          src={way.picture}
          width={132}
          height={132}
          alt={
            `How it would stand, ${way.size_mm[2]?.toFixed(1)} mm tall` +
            (needs ? "; hatched where supports touch it" : "")
          }
        />
        <div className="min-w-0 flex-1">
          <p className="text-[24px] leading-tight font-semibold whitespace-nowrap">
            ≈ {hours(way.time_s)} h
          </p>
          <p className="text-[13px] whitespace-nowrap">
            {now ? "as it stands now" : `${signedSpan(differs.time_s ?? 0)} to now`}
            {now && way.bare_time_s && ", with supports"}
          </p>
          {now && way.bare_time_s && (
            <p className="text-[13px] text-ink-2">
              ≈ {hours(way.bare_time_s)} h without, as the plan is
            </p>
          )}
          <p className="mt-1 text-[13px]">
            {grams(way.mass_g)} g
            {!now && Math.abs(differs.mass_g ?? 0) >= 0.05 && (
              <span className="text-ink-2"> ({signedMass(differs.mass_g ?? 0)})</span>
            )}
          </p>
          <p className="text-[13px]">{way.size_mm.map((v) => v.toFixed(0)).join(" × ")} mm</p>
          {way.unbeaten && (
            <p
              className="narrow mt-1 inline-block border border-fjord px-1 text-[12px] text-fjord"
              title="No other way is as good in minutes, scars, surface and strength at once"
            >
              no other beats it
            </p>
          )}
        </div>
      </div>
      <dl className="grid grid-cols-[auto_1fr] gap-x-2 text-[13px]">
        <dt className="text-ink-2">supports</dt>
        <dd>{needs ? `${(way.support_mm3 / 1000).toFixed(2)} cm³` : "none needed"}</dd>
        <dt className="text-ink-2">scars</dt>
        <dd>
          {way.scar_mm2 > 0.5 ? `${way.scar_mm2.toFixed(0)} mm²` : "none"}
          {way.scar_seen_mm2 > 0.5 && (
            <b className="text-look"> ▲ {way.scar_seen_mm2.toFixed(0)} mm² seen</b>
          )}
          {way.scar_hidden_mm2 > 0.5 && ` (${way.scar_hidden_mm2.toFixed(0)} hidden)`}
        </dd>
        <dt className="text-ink-2">step error</dt>
        <dd>
          mean {way.mean_um.toFixed(0)}, P95 {way.p95_um.toFixed(0)} µm
        </dd>
        <dt className="text-ink-2">stands on</dt>
        <dd className={falls ? "text-look" : ""}>
          {way.contact_mm2.toFixed(0)} mm²,{" "}
          {falls
            ? "▲ falls over without supports"
            : `falls when tilted by ${way.tips_at_deg.toFixed(0)}°`}
        </dd>
        {(way.starts_in_air > 0 || way.bridges > 0) && (
          <>
            <dt className="text-ink-2">in the air</dt>
            <dd>
              {[
                way.starts_in_air > 0 &&
                  `${way.starts_in_air} ${way.starts_in_air === 1 ? "start" : "starts"}`,
                way.bridges > 0 &&
                  `${way.bridges} ${way.bridges === 1 ? "bridge" : "bridges"}`,
              ]
                .filter(Boolean)
                .join(", ")}
            </dd>
          </>
        )}
        {way.loose_starts > 0 && (
          <>
            <dt className="text-ink-2">would not print</dt>
            <dd className="text-stop">
              ■ nothing holds {way.loose_starts} {way.loose_starts === 1 ? "start" : "starts"}{" "}
              above the part, since supports stand on the bed only
            </dd>
          </>
        )}
        {way.hanging_mm2 > 0.5 && (
          <>
            <dt className="text-ink-2">hangs</dt>
            <dd className="text-look">
              ▲ {way.hanging_mm2.toFixed(0)} mm² lean out above the part, where supports on the
              bed only cannot reach
            </dd>
          </>
        )}
        {way.load_deg !== null && (
          <>
            <dt className="text-ink-2">load</dt>
            <dd>{way.load_deg.toFixed(0)}° to the layers</dd>
          </>
        )}
      </dl>
      {way.misfit && <p className="text-[13px] text-stop">■ {way.misfit}</p>}
      {!now && (
        <button className="quiet mt-auto self-start" disabled={!takes} onClick={onTake}>
          {"supports.enabled" in way.change ? "Stand it so, with supports" : "Stand it so"}
        </button>
      )}
    </li>
  );
}
