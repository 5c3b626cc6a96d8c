import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";

import type { Plan } from "../api/client";
import { usePlan } from "../api/hooks";
import { NumberField } from "../desk/panels/NumberField";
import { Message } from "../frame/Message";
import { useWays, type Weights } from "./useWays";
import { WayCard } from "./WayCard";

/** Cards shown before more are asked for. */
const FIRST = 9;

/** How a part may stand, best first by weights that are moved here; one press takes a way. */
export function WaysScreen() {
  const { id } = useParams();
  const plan = usePlan(Number(id));
  if (plan.isPending) return <Message title="Ways up" text="Fetching the plan …" />;
  if (plan.error && !plan.data)
    return (
      <Message title="Ways up" text={plan.error.message} again={() => void plan.refetch()} />
    );
  return <Ways plan={plan.data} />;
}

function Ways({ plan }: { plan: Plan }) {
  const here = useWays(plan);
  const navigate = useNavigate();
  const [all, setAll] = useState(false);
  const { search, weights, running } = here;
  const ways = search?.ways ?? [];
  const shown = all ? ways : ways.slice(0, FIRST);
  const loaded = search?.pull !== null && search?.pull !== undefined;
  return (
    <main className="mx-auto max-w-6xl p-5">
      <header className="mb-3 flex flex-wrap items-baseline gap-x-4 gap-y-1">
        <h1 className="text-2xl font-semibold">Ways up</h1>
        <Link className="text-fjord underline" to={`/plans/${plan.id}`}>
          {plan.part.name}, plan {plan.number}
        </Link>
        <span role="status" className="text-[13px] text-ink-2" data-ways={search?.state ?? ""}>
          {running ? (
            <>
              <progress
                max={1}
                value={search?.share ?? 0}
                aria-label="Ways looked at"
                className="h-2 w-24"
              />{" "}
              {search?.of
                ? `${Math.round(search.share * search.of)} of ${search.of} ways`
                : "looking"}{" "}
              <button className="quiet" onClick={() => here.stop.mutate()}>
                Stop
              </button>
            </>
          ) : (
            search?.took_s &&
            `${ways.length} ways in ${search.took_s.toFixed(1)} s, quick figures with supports ` +
              "where they are needed"
          )}
        </span>
      </header>
      {(here.error ?? (search?.state === "failed" && search.message)) && (
        <p role="alert" className="mb-2 text-stop">
          {here.error?.message ?? search?.message}
        </p>
      )}
      {search?.stale && !running && (
        <p className="mb-2 text-look">
          ▲ The plan has changed since.{" "}
          <button className="word" onClick={() => here.begin.mutate(null)}>
            look again
          </button>
        </p>
      )}
      <Order weights={weights} loaded={loaded} onWeights={here.setWeights} />
      <Load
        pull={(search?.pull ?? null) as number[] | null}
        onPull={(pull) => here.begin.mutate(pull)}
      />
      {ways.length === 0 && !running && (
        <p className="card p-6 text-ink-2">
          {search?.left_out
            ? "Every way scars a face that is seen. Untick “keep seen faces clear” to see them."
            : "No way was found yet."}
        </p>
      )}
      <ol className="grid grid-cols-[repeat(auto-fill,minmax(300px,1fr))] gap-3">
        {shown.map((way, k) => (
          <WayCard
            key={way.way}
            way={way}
            place={k + 1}
            best={k === 0}
            takes={here.takes}
            onTake={() =>
              here.take.mutate(way, {
                onSuccess: () => void navigate(`/plans/${plan.id}`),
              })
            }
          />
        ))}
      </ol>
      <p className="mt-3 text-[13px] text-ink-2">
        {ways.length > shown.length && (
          <button className="quiet mr-2" onClick={() => setAll(true)}>
            Show all {ways.length}
          </button>
        )}
        {search && search.left_out > 0 && ways.length > 0 && (
          <>{search.left_out} left out because they scar a face that is seen. </>
        )}
        Red hatching: where supports touch the part.
      </p>
    </main>
  );
}

const NAMED = {
  time: "minutes",
  scars: "scars",
  surface: "step error",
  strength: "load along the layers",
} as const;

/** How much each figure counts. */
function Order({
  weights,
  loaded,
  onWeights,
}: {
  weights: Weights;
  loaded: boolean;
  onWeights: (weights: Weights) => void;
}) {
  return (
    <fieldset className="mb-2 flex flex-wrap items-center gap-x-5 gap-y-1 text-[13px]">
      <legend className="sr-only">What counts, and how much</legend>
      <span className="text-ink-2">What counts:</span>
      {(Object.keys(NAMED) as (keyof typeof NAMED)[])
        .filter((key) => key !== "strength" || loaded)
        .map((key) => (
          <span key={key} className="flex items-center gap-1.5">
            <label htmlFor={`weight-${key}`}>{NAMED[key]}</label>
            <input
              id={`weight-${key}`}
              type="range"
              className="w-20 accent-ink"
              min={0}
              max={4}
              step={0.25}
              value={weights[key]}
              onChange={(event) =>
                onWeights({ ...weights, [key]: Number(event.target.value) })
              }
            />
            <NumberField
              label={`Weight of ${NAMED[key]}`}
              unit="×"
              value={weights[key]}
              min={0}
              max={10}
              step={0.25}
              width="w-12"
              onValue={(v) => v !== null && onWeights({ ...weights, [key]: v })}
            />
          </span>
        ))}
      <label className="flex items-center gap-1.5">
        <input
          type="checkbox"
          className="accent-ink"
          checked={weights.keep_seen}
          onChange={(event) => onWeights({ ...weights, keep_seen: event.target.checked })}
        />
        keep seen faces clear
      </label>
    </fieldset>
  );
}

const AXES = ["x", "y", "z"] as const;

/** A load the part is pulled by, in the file's directions; layers along it are strong. */
function Load({
  pull,
  onPull,
}: {
  pull: number[] | null;
  onPull: (pull: number[] | null) => void;
}) {
  const [typed, setTyped] = useState<readonly number[]>(pull ?? [0, 0, 0]);
  return (
    <p className="mb-3 flex flex-wrap items-center gap-2 text-[13px]">
      <span className="text-ink-2">Pulled along, in the file:</span>
      {AXES.map((axis, k) => (
        <span key={axis} className="flex items-center gap-1">
          {axis}
          <NumberField
            label={`Load along ${axis}`}
            unit=""
            value={typed[k] ?? 0}
            min={-1000}
            max={1000}
            step={1}
            width="w-12"
            onValue={(v) => setTyped(typed.map((old, n) => (n === k ? (v ?? 0) : old)))}
          />
        </span>
      ))}
      <button
        className="quiet"
        disabled={!typed.some((v) => v !== 0)}
        onClick={() => onPull([...typed])}
      >
        count it
      </button>
      {pull && (
        <button className="quiet" onClick={() => onPull(null)}>
          no load
        </button>
      )}
    </p>
  );
}
