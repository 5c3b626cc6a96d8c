import { clsx } from "clsx";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Dialog } from "radix-ui";
import { useState } from "react";
import { useNavigate } from "react-router";

import type { Schemas } from "../api/client";
import { useWorkshop } from "../api/hooks";
import { NumberField } from "../desk/panels/NumberField";
import { euro, grams, hours, metres } from "../format";
import { Sheet } from "../frame/Sheet";
import { clock, give } from "../jobs/words";

/** What is pressed: how many, what was ticked, and a key that commits once. */
export interface Press {
  template: string;
  copies: number;
  ticked: string[];
  key: string;
}

/**
 * The review before a plan or a bed becomes jobs: figures, clock times, every check with its tick,
 * and the name of the file.
 */
export function CommitSheet({
  title,
  figures,
  subject,
  times = 1,
  nameOf,
  reviewOf,
  commit: send,
  onClose,
}: {
  title: string;
  figures: { seconds: number; grams: number; mm: number; cost: number; more: string };
  /** Tells what is reviewed from others. */
  subject: string;
  /** How often it is wanted. */
  times?: number;
  nameOf: (template: string) => Promise<Schemas["NameAnswer"]>;
  reviewOf: (copies: number) => Promise<Schemas["Review"]>;
  commit: (press: Press) => Promise<unknown>;
  onClose: () => void;
}) {
  const workshop = useWorkshop();
  const [own, setOwn] = useState<string | null>(null);
  const [copies, setCopies] = useState(times);
  // pressed twice, or sent again after the service was away, it commits once
  const [key] = useState(() => crypto.randomUUID());
  const [ticked, setTicked] = useState<readonly string[]>([]);
  const template = own ?? workshop.data?.name_template ?? "";
  const navigate = useNavigate();
  const client = useQueryClient();
  const name = useQuery({
    queryKey: ["name", subject, template],
    queryFn: () => nameOf(template),
    enabled: template !== "",
    retry: false,
    placeholderData: (before) => before,
  });
  const review = useQuery({
    queryKey: ["review", subject, copies],
    queryFn: () => reviewOf(copies),
    placeholderData: (before) => before,
    gcTime: 0,
  });
  const commit = useMutation({
    mutationFn: () => send({ template, copies, ticked: [...ticked], key }),
    onSuccess: () => {
      for (const key of ["board", "materials"])
        void client.invalidateQueries({ queryKey: [key] });
      void navigate("/jobs");
    },
  });
  const checks = review.data?.checks ?? [];
  const stopped = checks.some((check) => check.level === "stop");
  const open = checks.filter(
    (check) => check.level === "look" && !ticked.includes(check.key),
  ).length;
  const tick = (key: string, on: boolean) =>
    setTicked(on ? [...ticked, key] : ticked.filter((one) => one !== key));
  // what was accepted of the spool was said of another number of copies
  const copy = (v: number | null | undefined) => {
    setCopies(Math.round(v ?? 1));
    setTicked(ticked.filter((key) => key !== "spool"));
  };
  const { first, last } = review.data ?? {};
  // checks and clock times of another number of copies, until those of this one come
  const old = review.isPlaceholderData;
  return (
    <Sheet title={title} onClose={onClose} wide>
      <div className="mt-2 flex flex-wrap items-baseline gap-x-5">
        <p className="text-[26px] leading-tight font-semibold">
          {hours(figures.seconds)} h · {grams(figures.grams)} g
        </p>
        <p className="text-ink-2">
          {metres(figures.mm)} m, {euro(figures.cost)}, {figures.more}
        </p>
        <label className="ml-auto flex items-center gap-1.5 text-[13px]">
          copies{" "}
          <NumberField
            label="Copies"
            unit=""
            value={copies}
            min={1}
            max={500}
            step={1}
            width="w-14"
            onValue={copy}
          />
        </label>
      </div>
      {first && last && (
        <p
          data-clock={old ? "old" : "now"}
          className={`text-[15px] ${old ? "opacity-45" : ""}`}
        >
          starts <b>{clock(first.begin)}</b>, {copies > 1 ? "the last ends" : "ends"}{" "}
          <b>{clock(last.end)}</b>
          {give(last.give_s)}
          {copies > 1 && (
            <span className="text-ink-2"> · {grams(copies * figures.grams)} g in all</span>
          )}
        </p>
      )}
      <h3 className="mt-3 font-semibold">Last check</h3>
      {review.error && (
        <p role="alert" className="text-stop">
          {review.error.message}
        </p>
      )}
      <ul className={`mt-1 flex flex-col gap-1.5 ${old ? "opacity-45" : ""}`}>
        {checks.map((check) => (
          <li
            key={check.key}
            data-check={check.key}
            data-level={check.level}
            className={clsx(
              "flex items-start gap-2 border-l-[3px] pl-2",
              check.level === "stop"
                ? "border-stop text-stop"
                : check.level === "look"
                  ? ticked.includes(check.key)
                    ? "border-hairline"
                    : "border-look"
                  : "border-hairline text-ink-2",
            )}
          >
            {check.level === "look" ? (
              <label className="flex items-start gap-2">
                <input
                  type="checkbox"
                  className="mt-0.5 h-4 w-4 shrink-0 accent-ink"
                  checked={ticked.includes(check.key)}
                  onChange={(event) => tick(check.key, event.target.checked)}
                />
                <span className="max-h-28 overflow-auto">{check.words}</span>
              </label>
            ) : (
              <>
                <span aria-hidden className="w-4 text-center">
                  {check.level === "stop" ? "■" : "✓"}
                </span>
                <span>{check.words}</span>
              </>
            )}
          </li>
        ))}
      </ul>
      <label className="mt-3 flex flex-col gap-1 text-[13px]">
        File name, from the workshop's template
        <input
          className="field"
          value={template}
          aria-invalid={!!name.error}
          onChange={(event) => setOwn(event.target.value)}
        />
      </label>
      {name.error ? (
        <p role="alert" className="text-[13px] text-stop">
          {name.error.message}
        </p>
      ) : (
        <p className="text-[13px]">
          <code data-file-name>{name.data?.file_name ?? "…"}</code>{" "}
          <span className="text-ink-2">
            {name.data &&
              `${name.data.file_name.length} of ${name.data.limit} characters the display shows`}
          </span>
        </p>
      )}
      {stopped && (
        <p className="mt-2 text-stop">
          What says stop has to be put right, or acknowledged with a reason under Findings,
          before this can be committed.
        </p>
      )}
      {commit.error && (
        <p role="alert" className="mt-2 text-stop">
          {commit.error.message}
        </p>
      )}
      <div className="mt-4 flex items-center justify-end gap-2">
        {open > 0 && <span className="text-[13px] text-ink-2">{open} to tick</span>}
        <Dialog.Close className="quiet min-h-8">Not yet</Dialog.Close>
        <button
          className="action"
          disabled={
            commit.isPending || !!name.error || stopped || open > 0 || old || !review.data
          }
          onClick={() => commit.mutate()}
        >
          {copies > 1 ? `Commit ${copies} jobs` : "Commit job"}
        </button>
      </div>
    </Sheet>
  );
}
