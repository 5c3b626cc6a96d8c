import type { Job } from "../api/client";

export const STATES: Record<Job["state"], { word: string; mark: string; tone: string }> = {
  queued: { word: "queued", mark: "○", tone: "text-ink-2" },
  sending: { word: "being sent", mark: "◌", tone: "text-ink-2" },
  heating: { word: "heating", mark: "◔", tone: "text-fjord" },
  printing: { word: "printing", mark: "◑", tone: "text-fjord" },
  paused: { word: "paused", mark: "▲", tone: "text-look" },
  done: { word: "done", mark: "●", tone: "text-ink" },
  failed: { word: "failed", mark: "■", tone: "text-stop" },
  cancelled: { word: "cancelled", mark: "□", tone: "text-ink-2" },
};

/** A clock time; with the day when it is not today. */
export function clock(at: string | Date, now: Date = new Date()): string {
  const when = new Date(at);
  const time = when.toLocaleTimeString("en-GB", { hour: "2-digit", minute: "2-digit" });
  return when.toDateString() === now.toDateString()
    ? time
    : `${when.toLocaleDateString("en-GB", { weekday: "short", day: "numeric", month: "short" })} ` +
        time;
}

/** How far either side a clock time may lie, in minutes; nothing while that is not known. */
export const give = (seconds: number): string =>
  seconds >= 30 ? ` ± ${Math.round(seconds / 60)} min` : "";
