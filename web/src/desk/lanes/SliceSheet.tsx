import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router";

import { api, csrf, data, type Plan, refusalOf, type TestSlice } from "../../api/client";
import { Sheet } from "../../frame/Sheet";
import { NumberField } from "../panels/NumberField";
import type { Desk } from "../state/useDesk";

const REACH = 2;

/** Test slices of a plan: cut a stretch to judge it in the hand, and record what it showed. */
export function SliceSheet({
  plan,
  desk,
  z,
  top,
  onClose,
}: {
  plan: Plan;
  desk: Desk;
  z: number;
  top: number;
  onClose: () => void;
}) {
  const client = useQueryClient();
  const [stretch, setStretch] = useState<[number, number]>([
    Math.max(0, Number((z - REACH).toFixed(2))),
    Math.min(top, Number((z + REACH).toFixed(2))),
  ]);
  const cut = useMutation({
    mutationFn: () =>
      data(
        api.POST("/api/plans/{id}/slices", {
          params: { path: { id: plan.id } },
          body: { from_mm: stretch[0], to_mm: stretch[1] },
        }),
      ),
    onSuccess: () => client.invalidateQueries({ queryKey: ["plan", plan.id] }),
  });
  return (
    <Sheet title="Test slice" onClose={onClose} wide>
      <p className="mt-1 text-ink-2">
        A stretch of the part on a foot of its own, with the same layers and layer times. Print
        it, look at it, say what it showed: that sets the surface target of this plan.
      </p>
      <div className="mt-2 flex flex-wrap items-center gap-2">
        from{" "}
        <NumberField
          label="Slice from"
          unit="mm"
          value={stretch[0]}
          min={0}
          max={top}
          step={0.5}
          width="w-16"
          onValue={(v) => v !== null && setStretch([v, stretch[1]])}
        />
        to{" "}
        <NumberField
          label="Slice to"
          unit="mm"
          value={stretch[1]}
          min={0}
          max={top}
          step={0.5}
          width="w-16"
          onValue={(v) => v !== null && setStretch([stretch[0], v])}
        />
        <button
          className="action"
          disabled={!desk.upToDate || cut.isPending || stretch[1] <= stretch[0]}
          onClick={() => cut.mutate()}
        >
          {cut.isPending ? "cutting …" : "Plan this slice"}
        </button>
        {!desk.upToDate && (
          <span className="text-[13px] text-ink-2">
            waits for the exact plan, whose times it keeps
          </span>
        )}
      </div>
      {cut.error && (
        <p role="alert" className="mt-1 text-stop">
          {cut.error.message}
        </p>
      )}
      {plan.slices.length === 0 && (
        <p className="mt-3 text-ink-2">No slice of this plan yet.</p>
      )}
      <ul>
        {plan.slices.map((slice) => (
          <SliceRow key={slice.id} slice={slice} plan={plan} />
        ))}
      </ul>
    </Sheet>
  );
}

const VERDICTS: Record<string, string> = {
  open: "no verdict yet",
  accept: "accepted",
  "too-coarse": "too coarse",
};

function SliceRow({ slice, plan }: { slice: TestSlice; plan: Plan }) {
  const client = useQueryClient();
  const [note, setNote] = useState(slice.note ?? "");
  const [target, setTarget] = useState<number | null>(slice.target_um ?? null);
  const path = { params: { path: { id: slice.id } } };
  const done = () => void client.invalidateQueries({ queryKey: ["plan", plan.id] });
  const judge = useMutation({
    mutationFn: (verdict: "accept" | "too-coarse") =>
      data(
        api.POST("/api/slices/{id}/verdict", {
          ...path,
          body: { verdict, note, target_um: target },
        }),
      ),
    onSuccess: done,
  });
  const photo = useMutation({
    mutationFn: async (file: File) => {
      const form = new FormData();
      form.append("file", file);
      const response = await fetch(`/api/slices/${slice.id}/photo`, {
        method: "POST",
        body: form,
        headers: { "X-CSRFToken": csrf() },
      });
      if (!response.ok) throw await refusalOf(response);
    },
    onSuccess: done,
  });
  const error = judge.error ?? photo.error;
  return (
    <li className="mt-3 border-t border-hairline pt-2" data-slice={slice.id}>
      <p>
        <Link className="word" to={`/plans/${slice.trial}`}>
          {slice.from_mm.toFixed(2)} to {slice.to_mm.toFixed(2)} mm
        </Link>
        , steps up to <b>{Math.round(slice.error_um)} µm</b>:{" "}
        <b>{VERDICTS[slice.verdict ?? "open"]}</b>
        {slice.target_um !== null && <>, target {slice.target_um} µm</>}
        {slice.note && <> · “{slice.note}”</>}
      </p>
      <div className="mt-1 flex flex-wrap items-center gap-2 text-[13px]">
        <input
          className="field w-56"
          aria-label="Note"
          placeholder="what the print showed"
          value={note}
          onChange={(event) => setNote(event.target.value)}
        />
        target{" "}
        <NumberField
          label="Target from the verdict"
          unit="µm"
          value={target}
          placeholder="by verdict"
          min={1}
          max={2000}
          step={1}
          width="w-20"
          onValue={setTarget}
        />
        <button
          className="quiet"
          disabled={judge.isPending}
          onClick={() => judge.mutate("accept")}
        >
          Accept
        </button>
        <button
          className="quiet"
          disabled={judge.isPending}
          onClick={() => judge.mutate("too-coarse")}
        >
          Too coarse
        </button>
        <label className="quiet">
          photo …
          <input
            type="file"
            accept="image/png,image/jpeg"
            className="sr-only"
            onChange={(event) =>
              event.target.files?.[0] && photo.mutate(event.target.files[0])
            }
          />
        </label>
        {slice.photo && (
          <a
            className="word"
            href={`/api/slices/${slice.id}/photo`}
            target="_blank"
            rel="noreferrer"
          >
            see the photo
          </a>
        )}
      </div>
      {error && (
        <p role="alert" className="text-stop">
          {error.message}
        </p>
      )}
    </li>
  );
}
