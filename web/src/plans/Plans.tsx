import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";

import { api, data } from "../api/client";
import { Message } from "../frame/Message";
import { FilesButton } from "../library/FilesButton";
import { LibraryBar, More } from "../library/LibraryBar";
import { type PlanSort, usePlanLibrary, useWish, type Wish } from "../library/useLibrary";
import { useRemoval } from "../library/useRemoval";
import { useTicks } from "../library/useTicks";
import { NotDone } from "../library/NotDone";
import { useNewBed } from "../beds/useNewBed";
import { ChangePlans } from "./ChangePlans";
import { PlanTable } from "./PlanTable";

/** Plans that stand side by side at most, and that something is done to at once at most. */
const MOST_BESIDE = 8;
const MOST = 200;

export function Plans() {
  const { wish, setWish, by } = useWish<PlanSort>("created");
  const plans = usePlanLibrary(wish);
  const newBed = useNewBed();
  const ticks = useTicks(plans.rows);
  const [changing, setChanging] = useState(false);
  const client = useQueryClient();
  const remove = useMutation({
    mutationFn: (ids: readonly number[]) =>
      data(api.POST("/api/plans/several/remove", { body: { plans: [...ids] } })),
    onSettled: () => client.invalidateQueries({ queryKey: ["plans"] }),
  });
  const removal = useRemoval((ids) => remove.mutateAsync(ids).catch(() => null));
  if (plans.isPending) return <Message title="Plans" text="Fetching the plans …" />;
  if (plans.error && !plans.data)
    return (
      <Message title="Plans" text={plans.error.message} again={() => void plans.refetch()} />
    );
  const { rows, total } = plans;
  const shown = rows.filter((plan) => !removal.gone(plan.id));
  const ticked = ticks.all.filter((plan) => !removal.gone(plan.id));
  const exact = ticked.flatMap((plan) => (plan.exact ? [plan.exact] : []));
  const searched = wish.search !== "" || wish.label !== "";
  return (
    <main className="mx-auto max-w-7xl p-5">
      <header className="mb-4 flex flex-wrap items-center gap-x-3 gap-y-2">
        <h1 className="text-2xl font-semibold">Plans</h1>
        <span className="ml-auto text-[13px] text-ink-2">
          {ticked.length === 0
            ? "Tick plans to change, compare, export or remove them, or to put them on a bed."
            : `${ticked.length} ticked`}
        </span>
        {ticked.length > 0 && (
          <>
            <button className="quiet min-h-8" onClick={ticks.clear}>
              tick none
            </button>
            <button
              className="quiet min-h-8"
              disabled={ticked.length > MOST}
              title={ticked.length > MOST ? `at most ${MOST} at once` : undefined}
              onClick={() => setChanging(true)}
            >
              Change …
            </button>
            <FilesButton
              address={`/api/plans/several/file?plans=${ticked.map((one) => one.id).join(",")}`}
              name="plans.zip"
              count={ticked.length}
            />
            <button
              className="quiet min-h-8"
              disabled={ticked.length > MOST}
              onClick={() => {
                removal.remove(
                  ticked.map((one) => one.id),
                  ticked.length === 1 ? "1 plan is" : `${ticked.length} plans are`,
                );
                ticks.clear();
              }}
            >
              Remove
            </button>
            <button
              className="quiet min-h-8"
              disabled={newBed.isPending || exact.length < ticked.length}
              title={
                exact.length < ticked.length ? "one of them is not computed yet" : undefined
              }
              onClick={() => newBed.mutate({ plans: ticked.map((one) => one.id) })}
            >
              Put on a bed
            </button>
            <Link
              className="quiet min-h-8"
              to={`/orders?parts=${[...new Set(ticked.map((one) => one.part))].join(",")}`}
            >
              Order pieces
            </Link>
          </>
        )}
        {exact.length > 1 && exact.length <= MOST_BESIDE && (
          <Link className="action" to={`/compare?versions=${exact.join(",")}`}>
            Compare {exact.length} plans
          </Link>
        )}
      </header>
      {removal.notes}
      {remove.error && (
        <p role="alert" className="mb-2 text-stop">
          {remove.error.message}
        </p>
      )}
      {remove.data && (
        <NotDone done={`${remove.data.plans.length} removed.`} refused={remove.data.refused} />
      )}
      {newBed.error && (
        <p role="alert" className="mb-2 text-stop">
          {newBed.error.message}
        </p>
      )}
      {(total > 0 || searched) && (
        <LibraryBar wish={wish} onWish={setWish} total={total} what={["plan", "plans"]}>
          <button
            className="quiet"
            disabled={wish.sort === "created" && wish.down}
            onClick={() => setWish({ ...wish, sort: "created", down: true })}
          >
            newest first
          </button>
          <a className="quiet no-underline" href={tableOf(wish)} download>
            as a table
          </a>
        </LibraryBar>
      )}
      {total === 0 && searched && (
        <p className="card p-6 text-ink-2">
          No plan has all of these words in its part, name, verdict, machine, material or
          label.{" "}
          <button
            className="quiet"
            onClick={() => setWish({ ...wish, search: "", label: "" })}
          >
            show all
          </button>
        </p>
      )}
      {total === 0 && !searched && (
        <p className="card p-6 text-ink-2">
          No plans yet. Open{" "}
          <Link className="text-fjord underline" to="/parts">
            Parts
          </Link>{" "}
          and choose “Plan it …” on one.
        </p>
      )}
      {shown.length > 0 && <PlanTable rows={shown} ticks={ticks} wish={wish} onSort={by} />}
      {changing && <ChangePlans plans={ticked} onClose={() => setChanging(false)} />}
      <More
        shown={rows.length}
        total={total}
        busy={plans.isFetchingNextPage}
        onMore={() => void plans.fetchNextPage()}
      />
    </main>
  );
}

/** Where all that is searched for lies as a table. */
function tableOf({ search, sort, down, label }: Wish<PlanSort>): string {
  const asked = new URLSearchParams({ search, sort, down: String(down), label });
  return `/api/plans/table?${asked.toString()}`;
}
