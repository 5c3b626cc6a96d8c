/** The desk's room: what every instrument of one plan may ask for, by concern. */
import { createContext, type ReactNode, useContext } from "react";

import type { Finding, Machine, Material, Plan, Setting } from "../../api/client";
import { OPEN } from "../../api/hooks";
import { reachOf, type Toolpath, useLaid, useToolpath } from "./toolpath";
import { type Cursor, layerAtHeight, useCursor } from "./useCursor";
import { type Desk, useDesk } from "./useDesk";
import { type Ghost, useGhost } from "./useGhost";
import { type Marks, useMarking } from "./useMarking";
import { type Placed, usePlaced } from "./usePlaced";
import { type Sight, useSight } from "./useSight";

/** What the desk is about, as the server has it. */
export interface Subject {
  plan: Plan;
  machines: Machine[];
  materials: Material[];
  settings: Setting[];
}

export interface Room extends Subject {
  /** The settings as they are being changed, their figures, undo. */
  desk: Desk;
  /** The machine the nozzle belongs to. */
  machine: Machine | undefined;
  cursor: Cursor;
  /** Top of the layer at the cursor, mm. */
  top: number;
  /** Moves of the last exact plan, or what is laid of the one that is computed. */
  path: Toolpath | undefined;
  /** What these are, while they are not all of an exact plan. */
  laid: string | null;
  findings: Finding[];
  ghost: Ghost;
  placed: Placed;
  marks: Marks;
  sight: Sight;
}

const NO_LAYERS: number[] = [];
const NO_FINDINGS: Finding[] = [];
const RoomContext = createContext<Room | null>(null);

export function DeskRoom({
  subject,
  onPlaces,
  children,
}: {
  subject: Subject;
  /** Opens the instrument of places. */
  onPlaces: () => void;
  children: ReactNode;
}) {
  const { plan, machines, settings } = subject;
  const desk = useDesk(plan, settings);
  const exact = useToolpath(plan.exact?.id ?? null).data;
  const tops = desk.figures?.layers.tops_mm ?? NO_LAYERS;
  const played = useCursor(tops, exact);
  const placed = usePlaced(plan, desk);
  const { latest } = plan;
  const laid = useLaid(latest.id, OPEN.includes(latest.state) ? latest.laid : "");
  const top = tops[played.layer] ?? placed.size[2] ?? 0;
  // what is laid is looked at as soon as it reaches the cursor
  const reaches = laid !== undefined && (!exact || reachOf(laid) > top - 1e-3);
  const path = reaches ? laid : exact;
  const cursor = reaches
    ? { ...played, beadLayer: layerAtHeight(laid.tops, top), move: null }
    : played;
  const room: Room = {
    ...subject,
    desk,
    path,
    laid: reaches ? latest.laid_words : null,
    cursor,
    placed,
    machine: machines.find((entry) =>
      entry.nozzles.some((nozzle) => nozzle.id === desk.choice.nozzle),
    ),
    top,
    findings: desk.report?.findings ?? NO_FINDINGS,
    ghost: useGhost(plan),
    marks: useMarking(plan.id, desk, placed, onPlaces),
    sight: useSight(desk, cursor),
  };
  return <RoomContext value={room}>{children}</RoomContext>;
}

/** What an instrument asks for; only inside a `DeskRoom`. */
export function useRoom(): Room {
  const room = useContext(RoomContext);
  if (!room) throw new Error("an instrument outside of a desk");
  return room;
}
