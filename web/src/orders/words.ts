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

/** How an order stands to its due time, and whether that needs a look. */
export function lateness(
  order: OrderRow,
  outlook: Outlook | undefined,
): { words: string; bad: boolean } {
  const computing = order.lines.some((line) => line.plans.some((plan) => plan.computing));
  if (!outlook || (computing && outlook.lacking.length > 0))
    return { words: "being scheduled …", bad: false };
  if (outlook.lacking.length > 0) return { words: "cannot be printed", bad: true };
  if (outlook.late_s === null) return { words: "no due time", bad: false };
  if (outlook.late_s > 60) return { words: `${lasting(outlook.late_s)} late`, bad: true };
  return { words: `${lasting(-outlook.late_s)} to spare`, bad: false };
}

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
    [line.printed, "printed, result not told"],
    [line.under_way, "on machines"],
    [line.on_beds, "on beds to be committed"],
    [line.left, "to be printed"],
  ] as const;
  return said
    .filter(([count]) => count > 0)
    .map(([count, word]) => `${count} ${word}`)
    .join(" · ");
}
