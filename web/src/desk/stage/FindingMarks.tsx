import { type ThreeEvent, useFrame, useThree } from "@react-three/fiber";
import { type RefObject, useEffect, useMemo } from "react";
import { Vector3 } from "three";

import type { Finding } from "../../api/client";
import { SHEET, TONES } from "../../tokens";
import type { Focus } from "./Camera";
import { discard, screenPoints } from "./screenPoints";

const SHAPES = { stop: 0, look: 1, note: 2 } as const;

/**
 * Places of one finding that are further than `near` mm from those before them: marks are to lead
 * there, not to cover the part.
 */
function apart(places: readonly (readonly number[])[], near: number): (readonly number[])[] {
  const kept: (readonly number[])[] = [];
  for (const place of places)
    if (
      kept.every(
        (other) =>
          Math.hypot(...place.map((value, axis) => value - (other[axis] ?? 0))) > near,
      )
    )
      kept.push(place);
  return kept;
}

/**
 * Marks at the places of findings: a square for a stop, a triangle for a look, a disc for a note.
 * Stops are always marked. Of the other findings only the one that was gone to or is pointed at in
 * the list is marked, so that marks never cover the part. A callout names the place gone to.
 */
export function FindingMarks({
  findings,
  focus,
  pointed,
  near,
  onGo,
}: {
  near: number;
  pointed: string | null;
  findings: Finding[];
  focus: Focus | null;
  onGo: (finding: Finding, place: readonly number[]) => void;
}) {
  const invalidate = useThree((state) => state.invalidate);
  const gone = focus?.code;
  const places = useMemo(
    () =>
      findings
        .filter(
          ({ severity, code }) => severity === "stop" || code === gone || code === pointed,
        )
        .flatMap((finding) =>
          apart(finding.places, near).map((place) => ({ finding, place })),
        ),
    [findings, near, gone, pointed],
  );
  const object = useMemo(
    () =>
      screenPoints(
        places.flatMap(({ place }) => [...place]),
        places.map(({ finding }) => SHAPES[finding.severity]),
        15,
        [TONES.stop, TONES.look, TONES.note],
        SHEET,
        `
      r = k == 0 ? max(abs(d.x), abs(d.y)) : k == 1 ? max(d.y, 1.15 * abs(d.x) - 0.55 * d.y +
        0.42) : length(d);
      colour = r > 0.72 ? halo : tones[k];`,
      ),
    [places],
  );
  useEffect(() => invalidate(), [object, invalidate]);
  useEffect(() => () => discard(object), [object]);
  const pick = (event: ThreeEvent<MouseEvent>) => {
    const found = event.index === undefined ? undefined : places[event.index];
    // at a place one is already at, a click asks the bead below it
    const here = found && focus?.at.every((value, axis) => value === found.place[axis]);
    if (found && !here && event.delta < 4) {
      event.stopPropagation();
      onGo(found.finding, found.place);
    }
  };
  return <primitive object={object} onClick={pick} />;
}

/** Keeps an element of the page at a place of the stage. */
export function Pinned({
  focus,
  element,
}: {
  focus: Focus;
  element: RefObject<HTMLElement | null>;
}) {
  const at = useMemo(() => new Vector3(...focus.at), [focus]);
  const invalidate = useThree((state) => state.invalidate);
  useEffect(() => invalidate(), [focus, invalidate]);
  useFrame(({ camera, size }) => {
    const label = element.current;
    if (!label) return;
    const p = at.clone().project(camera);
    const x = Math.max(
      8,
      Math.min(size.width - label.offsetWidth - 8, ((p.x + 1) / 2) * size.width + 26),
    );
    const y = Math.max(80, Math.min(size.height - 70, ((1 - p.y) / 2) * size.height - 44));
    label.style.transform = `translate(${x}px, ${y}px)`;
  });
  return null;
}
