import { plain, unbroken } from "../../../format";
import { Chain } from "./Chain";
import { withChanges } from "../../state/changes";
import { Deadline } from "./Deadline";
import { HeldForm } from "./HeldForm";
import { useSearch } from "./useSearch";
import { useRoom } from "../../state/room";

/**
 * What to change next: proposals with their exact effect, the chain of them, and what fits before a
 * deadline.
 */
export function ProposePanel() {
  const { plan, desk, settings } = useRoom();
  const { search, running, begin, stop, error } = useSearch(plan.id);
  const found = search?.state === "done" ? search.result : null;
  const stale = search !== null && search.version !== plan.exact?.id;
  const share = plan.exact?.report?.filament;
  const lighter =
    share?.spool && share.spool.lighter_for_one_more_g > 0
      ? share.mass_g - share.spool.lighter_for_one_more_g
      : null;
  const take = (change: Record<string, unknown>) =>
    desk.change(withChanges(desk.choice, change, settings));
  return (
    <div className="flex flex-col gap-3 p-3">
      <Deadline plan={plan} desk={desk} settings={settings} />
      <HeldForm
        settings={settings}
        disabled={running || !desk.upToDate}
        lighter={lighter}
        onSearch={(held) => begin.mutate(held)}
      />
      {error && (
        <p role="alert" className="text-stop">
          {error.message}
        </p>
      )}
      {running && search && (
        <p role="status" className="flex items-center gap-2" data-search="running">
          <progress max={1} value={search.share} aria-label="Search" className="h-2 w-32" />{" "}
          {search.stage || "waiting for a worker"} …
          <button className="quiet" onClick={() => stop.mutate(search.id)}>
            Stop
          </button>
        </p>
      )}
      {search?.state === "failed" && (
        <p role="alert" className="text-stop">
          {search.message}
        </p>
      )}
      {!search && (
        <p className="text-ink-2">
          Nothing searched yet. “Find changes” tries what would make this plan quicker while
          thickness, surface and stiffness stay as they are.
        </p>
      )}
      {found && search && (
        <section aria-label="Proposals" data-search="done" className="flex flex-col gap-3">
          <p className="text-[13px] text-ink-2">
            {found.ranked.toLocaleString("en-GB")} candidates ranked in{" "}
            {found.ranked_s.toFixed(1)} s, the best computed exactly in{" "}
            {Math.round(found.elapsed_s)} s. Held: wall{" "}
            {plain(Number(found.held.wall_mm.toFixed(2)))} mm, top{" "}
            {plain(Number(found.held.top_mm.toFixed(2)))} mm, bottom{" "}
            {plain(Number(found.held.bottom_mm.toFixed(2)))} mm, P95{" "}
            {Math.round(found.held.p95_um)} µm, stiffness {found.held.stiffness.toFixed(2)}.
          </p>
          {stale && (
            <p className="text-[13px] text-look">
              ▲ Found for an earlier version of this plan: taken now, effects may overlap.
              Search again for exact ones.
            </p>
          )}
          <div>
            <h3 className="font-semibold">Next changes</h3>
            {found.singles.length === 0 && (
              <p className="text-ink-2">No single change saves time within what is held.</p>
            )}
            <ul>
              {found.singles.map((one) => (
                <li
                  key={one.sentence}
                  data-proposal={one.family}
                  className="flex items-start gap-2 border-b border-hairline py-1.5"
                >
                  <button className="quiet shrink-0" onClick={() => take(one.change)}>
                    take
                  </button>
                  <span>
                    <b>{one.words}</b>
                    {unbroken(one.sentence.slice(one.words.length))}
                  </span>
                </li>
              ))}
            </ul>
          </div>
          <Chain found={found} onTake={take} />
          {found.refused.length > 0 && (
            <details className="text-[13px] text-ink-2">
              <summary className="cursor-pointer">What was tried and not proposed</summary>
              <ul className="list-disc pl-5">
                {found.refused.map((line) => (
                  <li key={line}>{line}</li>
                ))}
              </ul>
            </details>
          )}
        </section>
      )}
    </div>
  );
}
