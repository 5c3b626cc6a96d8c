import { clsx } from "clsx";
import { useState } from "react";

import { hours } from "../format";
import type { BedRoom } from "./useBed";

const ROW = 16;

/** When each placing is laid, along the elapsed time: a row each, pauses and heating marked. */
export function Course({
  here,
  kept,
  onLit,
  onAt,
  onKeep,
}: {
  here: BedRoom;
  /** The moment that was kept by a click, s. */
  kept: number | null;
  onLit: (placing: number | null) => void;
  onAt: (seconds: number | null) => void;
  onKeep: (seconds: number | null) => void;
}) {
  const { report, picked } = here;
  const [pointed, setPointed] = useState<number | null>(null);
  const at = pointed ?? kept;
  if (!report)
    return (
      <p className="p-3 text-[13px] text-ink-2">
        The course, one row a placing along the hours, comes with the exact bed.
      </p>
    );
  const total = report.total_s;
  const share = (seconds: number) => `${(100 * seconds) / total}%`;
  const step =
    [300, 600, 900, 1800, 3600, 7200, 14400, 28800, 86400].find((s) => total / s < 9) ??
    172800;
  const marks = Array.from({ length: Math.floor(total / step) + 1 }, (_, k) => k * step);
  const light = (seconds: number | null) => {
    const found = report.placings.find(
      (placing) =>
        seconds !== null &&
        placing.laid_s.some(([from = 0, to = 0]) => from <= seconds && seconds <= to),
    );
    onLit(found ? found.number - 1 : null);
  };
  const look = (seconds: number | null) => {
    setPointed(seconds);
    onAt(seconds);
    light(seconds ?? kept);
  };
  const keep = (seconds: number | null) => {
    const within = seconds === null ? null : Math.min(Math.max(seconds, 0), total);
    onKeep(within);
    light(within);
  };
  const secondsAt = (event: { clientX: number; currentTarget: Element }) => {
    const box = event.currentTarget.querySelector("[data-along]")?.getBoundingClientRect();
    return box && event.clientX >= box.left
      ? Math.min(((event.clientX - box.left) / box.width) * total, total)
      : null;
  };
  return (
    <>
      <div
        className="max-h-44 overflow-auto"
        role="region"
        aria-label="Course of the bed"
        tabIndex={0}
        onPointerLeave={() => look(null)}
        onPointerMove={(event) => {
          const seconds = secondsAt(event);
          if (seconds !== null) look(seconds);
        }}
        onClick={(event) => {
          const seconds = secondsAt(event);
          if (seconds !== null) keep(seconds);
        }}
        onKeyDown={(event) => {
          const by = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
          if (event.key === "Escape") keep(null);
          if (!by) return;
          event.preventDefault();
          keep((kept ?? 0) + (by * total) / (event.shiftKey ? 20 : 400));
        }}
      >
        <div className="sticky top-0 z-10 flex bg-sheet">
          <span className="narrow w-40 shrink-0 px-2 text-[12px] text-ink-3">
            {at === null ? "elapsed h:min" : `at ${hours(at)}`}
          </span>
          <div className="relative h-5 flex-1" data-along>
            {marks.map((mark) => (
              <span
                key={mark}
                className="narrow absolute border-l border-edge pl-0.5 text-[12px] text-ink-2"
                style={{ left: share(mark) }}
              >
                {hours(mark)}
              </span>
            ))}
          </div>
        </div>
        {report.placings.map((placing) => (
          <div
            key={placing.number}
            data-course={placing.number}
            className={`flex items-center ${picked === placing.number - 1 ? "bg-sand/60" : ""}`}
            style={{ height: ROW }}
          >
            <button
              className={clsx(
                "narrow w-40 shrink-0 truncate border-0 bg-transparent",
                "px-2 text-left text-[12px]",
              )}
              onClick={() => here.pick(placing.number - 1)}
            >
              {placing.number} {placing.name}
            </button>
            <div className="relative h-full flex-1 border-b border-hairline">
              <span
                className="absolute top-1 bottom-1 bg-hairline"
                title={`heating and homing until ${hours(report.start_s)}`}
                style={{ left: 0, width: share(report.start_s) }}
              />
              {placing.laid_s.map(([from = 0, to = 0], k) => (
                <span
                  key={k}
                  className="absolute top-0.5 bottom-0.5 min-w-px bg-fjord"
                  style={{ left: share(from), width: share(to - from) }}
                  title={`${placing.name}: ${hours(from)} to ${hours(to)}`}
                />
              ))}
              {report.pauses.map((pause, k) => (
                <span
                  key={k}
                  className="absolute top-0 bottom-0 w-0.5 bg-look"
                  style={{ left: share(pause.at_s) }}
                  title={`pause after ${pause.after}, at ${hours(pause.at_s)}`}
                />
              ))}
              {at !== null && (
                <span
                  className="absolute top-0 bottom-0 w-px bg-north"
                  style={{ left: share(at) }}
                />
              )}
            </div>
          </div>
        ))}
      </div>
      <p className="narrow px-2 text-[12px] text-ink-3">
        <span className="mr-1 inline-block h-2 w-3 bg-hairline" /> heating, homing
        <span className="mr-1 ml-3 inline-block h-2 w-3 bg-fjord" /> laid
        <span className="mr-1 ml-3 inline-block h-2 w-0.5 bg-look" /> pause
        <span className="mr-1 ml-3 inline-block h-2 w-px bg-north" /> moment: point, or click
        to keep it, ← → to step, Esc to leave it
        {report.pauses.length > 0 &&
          ` · with ${report.pauses.length} pause${report.pauses.length > 1 ? "s" : ""}`}
      </p>
    </>
  );
}
