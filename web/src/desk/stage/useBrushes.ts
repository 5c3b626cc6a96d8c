/** Faces marked by a click: how much they are looked at, where supports or the seam may be. */
import { useMemo, useRef, useState } from "react";

import { supportMarksOf, withSupportMarks } from "../panels/paths/Stands";
import { standingOn } from "../state/choice";
import type { Room } from "../state/room";
import type { Dab } from "./surfaceMaterial";
import { type Mark, marksOf, withMarks } from "./Attention";
import { seamMarksOf, withSeamMarks } from "./SeamAreas";
import type { SupportBrush } from "./Supporting";
import { fileOf, normalInFile, toBed } from "./useShape";

/** Faces within so many degrees of the one pressed are marked with it. */
const SPREAD = 20;
/** Millimetres around a press in which the seam is wanted or not. */
const SEAM_RADIUS = 5;

type Point = [number, number, number];
/** Places of a stroke are this share of its radius apart; so many of them are kept. */
const APART = 0.4;
const MOST_POINTS = 400;

export type Brushes = ReturnType<typeof useBrushes>;

export function useBrushes({ desk, placed, marks }: Room) {
  const [support, setSupport] = useState<SupportBrush>({
    does: "ask",
    radius: 0,
    spread: SPREAD,
  });
  const [live, setLive] = useState<readonly Point[]>([]);
  const drawn = useRef<Point[]>([]);
  const [seamWanted, setSeamWanted] = useState(true);
  const [attention, setAttention] = useState<Mark["attention"]>("seen");
  const affine = placed.shape?.affine;
  const press = (at: Point, _level: number, normal: Point) => {
    if (!affine) return;
    if (marks.marking === "stand") {
      desk.change(standingOn(desk.choice, normalInFile(affine, normal)));
      marks.onMarking(null);
      return;
    }
    const [x, y, z] = fileOf(affine, at);
    if (marks.marking === "supports") keep([x, y, z], []);
    else if (marks.marking === "seam") {
      const mark = { x, y, z, radius: SEAM_RADIUS, want: seamWanted };
      desk.change(withSeamMarks(desk, [...seamMarksOf(desk), mark]));
    } else {
      desk.change(withMarks(desk, [...marksOf(desk), { x, y, z, spread: SPREAD, attention }]));
    }
  };
  /** Keep a mark: a point in the file, and further ones of its stroke. */
  const keep = ([x, y, z]: Point, along: Point[]) => {
    const { does, radius } = support;
    const spread = radius > 0 ? 180 : support.spread;
    const mark = { x, y, z, spread, radius, want: does === "ask", erase: does === "erase" };
    desk.change(withSupportMarks(desk, [...supportMarksOf(desk), { ...mark, along }]));
  };
  /** A brush is dragged: another place, or null where it is lifted. */
  const stroke = (at: Point | null) => {
    if (!affine) return;
    const last = drawn.current.at(-1);
    if (at) {
      const near = last && Math.hypot(...at.map((v, k) => v - (last[k] ?? 0)));
      if (near !== undefined && near < support.radius * APART) return;
      if (drawn.current.length < MOST_POINTS) drawn.current.push(at);
    } else {
      const [first, ...rest] = drawn.current.map((point) => fileOf(affine, point));
      drawn.current = [];
      if (first) keep(first, rest);
    }
    setLive([...drawn.current]);
  };
  const painting = marks.marking === "supports";
  const kept = supportMarksOf(desk);
  const dabs = useMemo<Dab[]>(() => {
    if (!painting || !affine) return [];
    const of = kept
      .filter((mark) => mark.radius > 0)
      .flatMap((mark) =>
        [[mark.x, mark.y, mark.z], ...(mark.along ?? [])].map((point, k): Dab => ({
          at: toBed(affine, point),
          radius: mark.radius,
          does: mark.erase ? "erase" : mark.want ? "ask" : "forbid",
          joined: k > 0,
        })),
      );
    const now = live.map((at, k): Dab => ({
      at,
      radius: support.radius,
      does: support.does,
      joined: k > 0,
    }));
    return [...of, ...now];
  }, [painting, affine, kept, live, support]);
  return {
    stroke: painting && support.radius > 0 ? stroke : null,
    dabs,
    support,
    setSupport,
    seamWanted,
    setSeamWanted,
    attention,
    setAttention,
    press,
  };
}
