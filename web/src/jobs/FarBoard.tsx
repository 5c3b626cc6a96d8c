import { Link } from "react-router";

import { hours } from "../format";
import { FilledPicture } from "./FilledPicture";
import type { Board } from "./useBoard";
import { clock, STATES } from "./words";

/**
 * The board to be read from across a room: for each machine the time left, the end by the clock,
 * and what wants a hand.
 */
export function FarBoard({ board }: { board: Board }) {
  return (
    <main className="flex min-h-full flex-col gap-4 p-5">
      <header className="flex items-baseline">
        <h1 className="text-[34px] font-semibold">Machines</h1>
        <span className="ml-auto text-[34px] text-ink-2">{clock(board.now)}</span>
        <Link className="quiet ml-5" to="/jobs">
          Back to the board
        </Link>
      </header>
      <div className="grid flex-1 grid-cols-[repeat(auto-fit,minmax(360px,1fr))] gap-4">
        {board.machines.map((machine) => {
          const on = machine.jobs.find((job) => job.state !== "queued");
          const next = machine.jobs.find((job) => job.state === "queued");
          const look = machine.error
            ? "no answer"
            : on?.state === "paused"
              ? on.reason
              : machine.trouble;
          const { layer = 0, layers = 0, left_s: left } = on?.progress ?? {};
          return (
            <section
              key={machine.id}
              aria-label={machine.name}
              className="card flex flex-col gap-2 p-5"
            >
              <h2 className="text-[30px] leading-none font-semibold">{machine.name}</h2>
              {on ? (
                <>
                  <p className="text-[76px] leading-none font-semibold whitespace-nowrap">
                    {hours(left ?? on.figures.time_s)}
                    <span className="text-[30px]"> h left</span>
                  </p>
                  <p className="text-[26px] text-ink-2">
                    {STATES[on.state].mark} {STATES[on.state].word}
                    {layers > 0 && `, layer ${layer} of ${layers}`}
                  </p>
                  <p className="truncate text-[26px]">
                    {on.part_name}
                    {on.slot && on.state !== "paused" && `, ends ${clock(on.slot.end)}`}
                  </p>
                  <FilledPicture
                    address={on.picture}
                    name={on.part_name}
                    share={layers ? layer / layers : 0}
                    size={250}
                  />
                </>
              ) : (
                <p className="text-[52px] leading-tight font-semibold text-ink-2">
                  {machine.change
                    ? "waits for a hand"
                    : machine.state?.phase === "idle" || machine.kind !== "printer"
                      ? "free"
                      : (machine.state?.phase ?? "not heard from")}
                </p>
              )}
              {machine.change && machine.change.steps.length > 0 && (
                <ol className="list-decimal pl-8 text-[24px]">
                  {machine.change.steps.map((step) => (
                    <li key={step}>{step}</li>
                  ))}
                </ol>
              )}
              {look && <p className="text-[24px] text-look">▲ {look}</p>}
              {next && (
                <p className="mt-auto text-[22px] text-ink-2">
                  then {next.part_name}, {hours(next.figures.time_s)} h
                </p>
              )}
            </section>
          );
        })}
      </div>
    </main>
  );
}
