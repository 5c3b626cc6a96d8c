/** Times and counts of orders in words. */
import { span } from "../format";
import type { OrderRow, Outlook } from "./useOrderBook";

/** A moment on the workshop's clock: Thu 3 Dec, 16:40. */
export const moment = (iso: string, zone: string): string =>
  new Date(iso)
    .toLocaleString("en-GB", {
      timeZone: zone,
      weekday: "short",
      day: "numeric",
      month: "short",
      hour: "2-digit",
      minute: "2-digit",
    })
    .replace(/,? (\d\d:\d\d)$/, ", $1");

/** Hour and minute on the workshop's clock. */
export const clock = (iso: string, zone: string): string =>
  new Date(iso).toLocaleTimeString("en-GB", {
    timeZone: zone,
    hour: "2-digit",
    minute: "2-digit",
  });

/** A duration of hours or days: 3:20 h, 2.5 days. */
export const lasting = (seconds: number): string =>
  seconds < 2 * 86400 ? span(seconds) : `${(seconds / 86400).toFixed(1)} days`;

/** How an order stands to its due time, in words. */
export function lateness(outlook: Outlook | undefined): string {
  switch (outlook?.state) {
    case "impossible":
      return "not all of it can be printed";
    case "late":
      return `${lasting(outlook.late_s ?? 0)} late`;
    case "in-time":
      return `${lasting(-(outlook.late_s ?? 0))} to spare`;
    case "no-due":
      return "no due time";
    default:
      return "being scheduled …";
  }
}

/** Whether somebody has to do something about an order. */
export const isBad = (outlook: Outlook | undefined): boolean =>
  outlook?.state === "late" || outlook?.state === "impossible";

/** How many pieces of an order are good, and how many were ordered. */
export function pieces(order: OrderRow): { good: number; wanted: number } {
  const sum = (of: (line: OrderRow["lines"][number]) => number) =>
    order.lines.reduce((total, line) => total + of(line), 0);
  return {
    good: sum((line) => Math.min(line.good, line.wanted)),
    wanted: sum((l) => l.wanted),
  };
}

/** Where the pieces of a line stand, in words: 12 good, 6 on machines. */
export function standing(line: OrderRow["lines"][number]): string {
  const said = [
    [line.good, "good"],
    [line.bad, "not good"],
    [line.printed, "printed, result not entered"],
    [line.under_way, "on machines"],
    [line.on_beds, "on beds to be committed"],
    [line.left, "to be printed"],
  ] as const;
  return said
    .filter(([count]) => count > 0)
    .map(([count, word]) => `${count} ${word}`)
    .join(" · ");
}
