import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { Link, useNavigate } from "react-router";

import { api, type Part } from "../api/client";
import { useReadAgain, useTakeIn } from "../api/hooks";
import { bytes, count, day, outcomes, size } from "../format";
import { useNewBed } from "../beds/useNewBed";
import { Message } from "../frame/Message";
import { FilesButton } from "../library/FilesButton";
import { Labels } from "../library/Labels";
import { LibraryBar, More } from "../library/LibraryBar";
import { type PartSort, usePartLibrary, useWish } from "../library/useLibrary";
import { useRemoval } from "../library/useRemoval";
import { useTicks } from "../library/useTicks";
import { NewPlan } from "./NewPlan";
import { Picture } from "./Picture";
import { SeveralPlans } from "./SeveralPlans";

/** What parts are sorted by, with the way, and its words. */
const SORTS = [
  ["created true", "newest first"],
  ["created false", "oldest first"],
  ["name false", "name"],
  ["size true", "largest file first"],
  ["plans true", "most plans first"],
  ["printed true", "last printed first"],
  ["success false", "least success first"],
] as const;

export function Parts() {
  const { wish, setWish } = useWish<PartSort>("created");
  const parts = usePartLibrary(wish);
  const client = useQueryClient();
  const remove = useMutation({
    mutationFn: (id: number) => api.DELETE("/api/parts/{id}", { params: { path: { id } } }),
    onSettled: () => client.invalidateQueries({ queryKey: ["parts"] }),
  });
  const removal = useRemoval((ids) =>
    Promise.all(ids.map((id) => remove.mutateAsync(id).catch(() => null))),
  );
  const takeIn = useTakeIn();
  const input = useRef<HTMLInputElement>(null);
  const [planning, setPlanning] = useState<Part | null>(null);
  const [several, setSeveral] = useState(false);
  const navigate = useNavigate();
  const newBed = useNewBed();
  const ticks = useTicks(parts.rows);
  if (parts.isPending) return <Message title="Parts" text="Looking at the shelf …" />;
  if (parts.error && !parts.data)
    return (
      <Message title="Parts" text={parts.error.message} again={() => void parts.refetch()} />
    );
  const { rows, total } = parts;
  const shown = rows.filter((part) => !removal.gone(part.id));
  const ready = rows.filter((part) => part.state === "ready");
  const ticked = ticks.all.filter((part) => !removal.gone(part.id));
  const planned = ticked.filter((part) => part.plans.length > 0);
  const unplanned = ticked.filter((part) => part.plans.length === 0);
  const searched = wish.search !== "" || wish.label !== "";
  return (
    <main className="mx-auto max-w-6xl p-5">
      <header className="mb-4 flex flex-wrap items-baseline gap-x-4 gap-y-2">
        <h1 className="text-2xl font-semibold">Parts</h1>
        <p className="text-ink-2">Drop a mesh file anywhere, or</p>
        <button className="quiet" onClick={() => input.current?.click()}>
          choose a file …
        </button>
        <input
          ref={input}
          type="file"
          className="hidden"
          accept=".stl,.obj,.ply,.3mf"
          aria-label="Mesh file"
          multiple
          onChange={(event) => {
            for (const file of event.target.files ?? []) takeIn.mutate(file);
            event.target.value = "";
          }}
        />
        {ready.length > 1 && (
          <button className="quiet ml-auto" onClick={() => setSeveral(true)}>
            One recipe for {ticked.length > 0 ? `these ${ticked.length}` : "several"} …
          </button>
        )}
        {ticked.length > 0 && (
          <>
            <button
              className="quiet"
              disabled={newBed.isPending || planned.length < ticked.length}
              title={planned.length < ticked.length ? "one of them has no plan" : undefined}
              onClick={() => newBed.mutate({ parts: ticked.map((part) => part.id) })}
            >
              A bed of these {ticked.length}
            </button>
            <FilesButton
              address={`/api/parts/file?parts=${ticked.map((part) => part.id).join(",")}`}
              name="parts.zip"
              count={ticked.length}
            />
            <button
              className="quiet"
              disabled={unplanned.length < ticked.length}
              title={
                unplanned.length < ticked.length
                  ? "one of them has plans: they go first, under Plans"
                  : undefined
              }
              onClick={() => {
                removal.remove(
                  ticked.map((part) => part.id),
                  ticked.length === 1 ? "1 part is" : `${ticked.length} parts are`,
                );
                ticks.clear();
              }}
            >
              Remove
            </button>
            <button className="quiet" onClick={ticks.clear}>
              tick none
            </button>
          </>
        )}
        {takeIn.isPending && <span role="status">taking in …</span>}
        {takeIn.error && (
          <span role="alert" className="text-stop">
            {takeIn.error.message}
          </span>
        )}
      </header>
      {newBed.error && (
        <p role="alert" className="mb-2 text-stop">
          {newBed.error.message}
        </p>
      )}
      {remove.error && (
        <p role="alert" className="mb-2 text-stop">
          {remove.error.message}
        </p>
      )}
      {removal.notes}
      {(total > 0 || searched) && (
        <LibraryBar wish={wish} onWish={setWish} total={total} what={["part", "parts"]}>
          <label className="flex items-center gap-1">
            sorted by
            <select
              className="field min-h-8"
              aria-label="Sorted by"
              value={`${wish.sort} ${wish.down}`}
              onChange={(event) => {
                const [sort, down] = event.target.value.split(" ");
                setWish({ ...wish, sort: sort as PartSort, down: down === "true" });
              }}
            >
              {SORTS.map(([value, words]) => (
                <option key={value} value={value}>
                  {words}
                </option>
              ))}
            </select>
          </label>
        </LibraryBar>
      )}
      {total === 0 && searched && (
        <p className="card p-6 text-ink-2">
          No part has all of these words in its name, its file’s name or a label.{" "}
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
          No parts yet. STL, OBJ, PLY and 3MF files are read; sizes are taken as millimetres
          unless the file says otherwise.
        </p>
      )}
      <ul className="grid grid-cols-[repeat(auto-fill,minmax(330px,1fr))] gap-3">
        {shown.map((part) => (
          <PartCard
            key={part.id}
            part={part}
            ticked={ticks.has(part)}
            onTick={(on) => ticks.set(part, on)}
            onPlan={() => setPlanning(part)}
            onRemove={() => removal.remove([part.id], `${part.name} is`)}
          />
        ))}
      </ul>
      <More
        shown={rows.length}
        total={total}
        busy={parts.isFetchingNextPage}
        onMore={() => void parts.fetchNextPage()}
      />
      {several && (
        <SeveralPlans
          parts={ticked.length ? ticked.filter((part) => part.state === "ready") : ready}
          ticked={ticked.length > 0}
          onClose={() => setSeveral(false)}
        />
      )}
      {planning && (
        <NewPlan
          part={planning}
          onClose={() => setPlanning(null)}
          onMade={(id) => void navigate(`/plans/${id}`)}
        />
      )}
    </main>
  );
}

function PartCard({
  part,
  ticked,
  onTick,
  onPlan,
  onRemove,
}: {
  part: Part;
  ticked: boolean;
  onTick: (on: boolean) => void;
  onPlan: () => void;
  onRemove: () => void;
}) {
  const readAgain = useReadAgain();
  return (
    <li className="card flex gap-3 p-3" data-part={part.name}>
      <Picture address={part.picture} name={part.name} />
      <div className="flex min-w-0 flex-1 flex-col gap-0.5">
        <h2 className="truncate text-base font-semibold" title={part.filename}>
          {part.name}
        </h2>
        {part.state === "reading" && (
          <p role="status" className="text-ink-2">
            reading and mending …
          </p>
        )}
        {part.state === "refused" && (
          <p className="text-[13px] text-stop">
            <b>Refused:</b> {part.message}
          </p>
        )}
        {readAgain.error && (
          <p role="alert" className="text-[13px] text-stop">
            {readAgain.error.message}
          </p>
        )}
        {part.facts && (
          <>
            <p>{size(part.facts.size_mm)}</p>
            <p className="text-[13px] text-ink-2">
              {count(part.facts.triangles)} triangles · {bytes(part.size_bytes)}
              {part.facts.body_count > 1 && ` · ${count(part.facts.body_count)} bodies`}
            </p>
            <p className="text-[13px] text-ink-2">
              {part.facts.mended.length ? (
                <span title={part.facts.mended.join("\n")}>
                  <b className="text-look">mended:</b> {part.facts.mended.join("; ")}
                </span>
              ) : (
                "closed as it came"
              )}
            </p>
          </>
        )}
        {part.printed && (
          <p className="text-[13px] text-ink-2">
            last printed {day(part.printed)} · {outcomes(part)}
          </p>
        )}
        <Labels part={part} />
        <div className="mt-auto flex flex-wrap items-center gap-2 pt-2">
          {part.state === "ready" && (
            <button className="action" onClick={onPlan}>
              Plan it …
            </button>
          )}
          {part.state === "refused" && (
            <button
              className="quiet"
              aria-label={`Try ${part.name} again`}
              disabled={readAgain.isPending}
              onClick={() => readAgain.mutate(part.id)}
            >
              Try again
            </button>
          )}
          {part.plans[0] && (
            <Link
              to={`/plans/${part.plans[0]}/ways`}
              className="text-[13px] text-fjord underline"
            >
              ways up
            </Link>
          )}
          {part.plans[0] && part.facts && part.facts.mended.length > 0 && (
            <Link
              to={`/plans/${part.plans[0]}?open=mesh`}
              className="text-[13px] text-fjord underline"
            >
              see what was mended
            </Link>
          )}
          {part.plans.map((id) => (
            <Link key={id} to={`/plans/${id}`} className="text-[13px] text-fjord underline">
              open plan
            </Link>
          ))}
          {part.state !== "reading" && (
            <label className="ml-auto flex min-h-[24px] items-center gap-1 text-[13px] text-ink-2">
              <input
                type="checkbox"
                className="accent-ink"
                aria-label={`Tick ${part.name}`}
                checked={ticked}
                onChange={(event) => onTick(event.target.checked)}
              />
              tick
            </label>
          )}
          {!part.plans.length && part.state !== "reading" && (
            <button className="quiet" aria-label={`Remove ${part.name}`} onClick={onRemove}>
              Remove
            </button>
          )}
        </div>
      </div>
    </li>
  );
}
