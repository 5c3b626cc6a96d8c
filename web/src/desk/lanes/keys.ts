import type { KeyboardEvent } from "react";

import type { Cursor } from "../state/useCursor";

/** By how many layers a key moves the cursor. */
const STEPS: Record<string, number> = {
  ArrowLeft: -1,
  ArrowDown: -1,
  ArrowRight: 1,
  ArrowUp: 1,
  PageDown: -10,
  PageUp: 10,
  Home: -1e9,
  End: 1e9,
};

/** The lanes by keyboard: layers, ends, and Space to play. */
export function keys(event: KeyboardEvent, cursor: Cursor, layer: number) {
  if (event.key === " ") {
    event.preventDefault();
    cursor.toggle();
    return;
  }
  const step = STEPS[event.key];
  if (step === undefined) return;
  event.preventDefault();
  cursor.go(layer + step);
}
