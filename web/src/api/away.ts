/** Whether the service, or its database, is away: noted by the client, told to whoever asks. */
import { useSyncExternalStore } from "react";

/** Answers that mean it, and no answer at all. */
const AWAY = [0, 502, 503, 504];

let away = false;
const heard = new Set<() => void>();
let waiting: (() => void)[] = [];

function set(now: boolean) {
  if (away === now) return;
  away = now;
  heard.forEach((tell) => {
    tell();
  });
}

export const meansAway = (status: number): boolean => AWAY.includes(status);

export function noteAnswer(status: number) {
  if (meansAway(status)) set(true);
}

/** Do something once the service is back. */
export function onceBack(then: () => void) {
  waiting.push(then);
}

export function noteBack() {
  set(false);
  const now = waiting;
  waiting = [];
  now.forEach((then) => {
    then();
  });
}

const subscribe = (tell: () => void) => {
  heard.add(tell);
  return () => heard.delete(tell);
};

export function useAway(): boolean {
  return useSyncExternalStore(subscribe, () => away);
}
