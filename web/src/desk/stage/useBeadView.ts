/** The beads on the stage: what they are coloured by, what of them shows, and which one is read. */
import { useMemo, useState } from "react";

import type { Feature } from "../../tokens";
import type { Room } from "../state/room";
import { type Bead, beadAt } from "./beads/beadAt";
import { answer as answerTo, type Question } from "./beads/questions";

/** How near to a bead its middle is still meant, in mm: by the pointer, by a click. */
const NEAR = 0.3;
const CLICKED = 0.6;

export type BeadView = ReturnType<typeof useBeadView>;

export function useBeadView({ plan, desk, path, cursor, placed }: Room) {
  const [hidden, setHidden] = useState<ReadonlySet<Feature>>(new Set<Feature>());
  const [question, setQuestion] = useState<Question>("what");
  const [below, setBelow] = useState(true);
  const [travel, setTravel] = useState(false);
  const [seams, setSeams] = useState(false);
  const [read, setRead] = useState<{ bead: Bead; kept: boolean } | null>(null);
  const report = plan.exact?.report ?? null;
  const { safe_flow: safe, least_layer_time: least } = desk.now.resolved;
  const answer = useMemo(
    () => (path ? answerTo(question, path, report, safe, least) : null),
    [question, path, report, safe, least],
  );
  const origin = placed.bed.origin;
  /** The pointer is over a place of the layer; a click keeps what is read there. */
  const point = (x: number, y: number, keep: boolean) => {
    if (!path || (read?.kept && !keep)) return;
    const { beadLayer, move } = cursor;
    const near = keep ? CLICKED : NEAR;
    const bead = beadAt(path, beadLayer, move, origin, x, y, hidden, near);
    setRead(bead ? { bead, kept: keep } : null);
  };
  return {
    hidden,
    setHidden,
    question,
    setQuestion: (next: Question) => {
      setQuestion(next);
      setRead(null);
    },
    below,
    setBelow,
    travel,
    setTravel,
    seams,
    setSeams,
    read,
    forget: () => setRead(null),
    leave: () => setRead((now) => (now?.kept ? now : null)),
    point,
    answer,
    report,
    safe,
    least,
  };
}
