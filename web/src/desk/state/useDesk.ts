/**
 * One plan on the desk: its settings, the ≈ figures at once, the exact ones when they come, and
 * undo.
 */
import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";

import {
  api,
  data,
  type Layers,
  type Now,
  type Pace,
  type Plan,
  type Quick,
  Refusal,
  type Report,
  type Setting,
  type Surface,
} from "../../api/client";
import { meansAway, onceBack } from "../../api/away";
import { OPEN } from "../../api/hooks";
import { useShortcut } from "../../frame/shortcuts";
import { type Choice, choiceOf } from "./choice";
import { wantedOf } from "./wanted";

export interface Figures {
  /**
   * exact: of these settings; quick: ≈ of these settings; old: exact, but of the settings before.
   */
  state: "exact" | "quick" | "old";
  time: number;
  mass: number;
  length: number;
  cost: number;
  byFeature: Record<string, number>;
  pace: Pace;
  layers: Layers;
  surface: Surface;
}

const TYPING = 120;

/** Where ≈ figures of a plan lie that were worked out before it was made. */
export const firstFigures = (plan: number) => ["first figures", plan];

/** What was changed, and the number of the version that keeps it, once it is known. */
interface Draft {
  choice: Choice;
  kept: number | null;
}

function figuresOf(source: Report | Quick, state: Figures["state"]): Figures {
  return {
    state,
    time: source.time_s.total,
    mass: source.filament.mass_g,
    length: source.filament.length_mm,
    cost: source.filament.cost,
    byFeature: source.time_s.by_feature,
    pace: source.pace,
    layers: source.layers,
    // a report that an older core made lacks it until the plan is computed anew
    surface: { ...source.surface, above: (source.surface as Partial<Surface>).above ?? [] },
  };
}

export function useDesk(plan: Plan, settings: Setting[]) {
  const client = useQueryClient();
  const [changed, setChanged] = useState<Draft | null>(null);
  // those that a new plan was chosen by are of its first version alone
  const [quick, setQuick] = useState<Quick | null>(
    () =>
      (plan.exact || plan.latest.number > 1
        ? null
        : client.getQueryData<Quick>(firstFigures(plan.id))) ?? null,
  );
  const [refusal, setRefusal] = useState<Refusal | null>(null);
  const turn = useRef(0);
  /** What is to be kept once typing rests, and what is on its way to be kept. */
  const pending = useRef<{ timer: number; body: ReturnType<typeof bodyOf> } | null>(null);
  const keeping = useRef(false);
  /** What is done one after the other: whether the last of it was kept. */
  const saving = useRef<Promise<boolean>>(Promise.resolve(true));
  /**
   * While something is dragged: what is wanted last, and whether an answer is on its way.
   */
  const sliding = useRef<{ wanted: Choice | null; asking: boolean } | null>(null);
  const [held, setHeld] = useState(false);
  const saved = useMemo(() => choiceOf(plan), [plan]);
  // the draft stands until the plan that came has it: dropped with the answer, the version before
  // would show for a moment, and what is typed then would be built on it
  const draft =
    changed !== null && (changed.kept === null || plan.latest.number < changed.kept)
      ? changed.choice
      : null;
  const choice = draft ?? saved;
  /** The version that what is being changed was begun on, and whether it stands against others'. */
  const base = useRef(plan.latest.number);
  const mineStands = useRef(false);
  /** The version that was kept here last. */
  const own = useRef(plan.latest.number);
  const untouched = draft === null;
  useEffect(() => {
    if (!untouched || base.current === plan.latest.number) return;
    base.current = plan.latest.number;
    // a version of somebody else's: the ≈ figures are of the one before
    if (own.current !== plan.latest.number) setQuick(null);
  }, [untouched, plan.latest.number]);
  const id = plan.id;
  const setDraft = useCallback((next: Choice) => setChanged({ choice: next, kept: null }), []);

  /** A newer version is there; the draft goes with it unless it has been changed since. */
  const arrived = useCallback(
    async (answer: Plan, mine: number) => {
      // an answer to an older question must not put the plan back for a moment
      await client.cancelQueries({ queryKey: ["plan", id] });
      own.current = answer.latest.number;
      client.setQueryData(["plan", id], answer);
      if (mine === turn.current)
        setChanged((now) => now && { ...now, kept: answer.latest.number });
    },
    [client, id],
  );

  /** Keep what waits to be kept: a new version of the plan. */
  const keep = useCallback(
    (mine: number, again: () => void) => {
      const waiting = pending.current;
      if (!waiting) return;
      pending.current = null;
      keeping.current = true;
      const path = { params: { path: { id } } };
      saving.current = saving.current.then(async () => {
        try {
          const body = { ...waiting.body, base: base.current, mine: mineStands.current };
          // said for this once: what is changed after it asks again
          mineStands.current = false;
          const answer = await data(api.PATCH("/api/plans/{id}", { ...path, body }));
          await arrived(answer, mine);
          return true;
        } catch (error) {
          if (mine !== turn.current) return true;
          setQuick(null);
          setRefusal(error instanceof Refusal ? error : new Refusal(String(error), "", 0));
          if (error instanceof Refusal && meansAway(error.status)) onceBack(again);
          return false;
        } finally {
          keeping.current = false;
        }
      });
    },
    [arrived, id],
  );

  const send = useCallback(
    async (next: Choice): Promise<void> => {
      const mine = ++turn.current;
      const again = () => {
        if (mine === turn.current) void send(next);
      };
      const body = bodyOf(next);
      const path = { params: { path: { id } } };
      const fail = (error: unknown) => {
        if (mine !== turn.current) return;
        setQuick(null);
        setRefusal(error instanceof Refusal ? error : new Refusal(String(error), "", 0));
        if (error instanceof Refusal && meansAway(error.status)) onceBack(again);
      };
      try {
        const figures = await data(api.POST("/api/plans/{id}/quick", { ...path, body }));
        // answers may overtake each other: only the newest question counts, and only it is kept
        if (mine !== turn.current) return;
        setQuick(figures);
        setRefusal(null);
      } catch (error) {
        fail(error);
        return;
      }
      // The exact plan is asked for once typing rests; the ≈ figures are there already.
      window.clearTimeout(pending.current?.timer);
      pending.current = { body, timer: window.setTimeout(() => keep(mine, again), TYPING) };
    },
    [id, keep],
  );

  const change = useCallback(
    (next: Choice) => {
      setDraft(next);
      setQuick(null);
      void send(next);
    },
    [send, setDraft],
  );

  /**
   * Follow a hand: ≈ figures of the newest place, one question at a time; nothing is kept before
   * `settle`.
   */
  const slide = useCallback(
    (next: Choice) => {
      const now = (sliding.current ??= { wanted: null, asking: false });
      now.wanted = next;
      setHeld(true);
      setDraft(next);
      const ask = async () => {
        const wanted = now.wanted;
        if (!wanted || sliding.current !== now) return;
        now.wanted = null;
        now.asking = true;
        const mine = ++turn.current;
        try {
          const figures = await data(
            api.POST("/api/plans/{id}/quick", {
              params: { path: { id } },
              body: bodyOf(wanted),
            }),
          );
          if (mine === turn.current) {
            setQuick(figures);
            setRefusal(null);
          }
        } catch (error) {
          if (mine === turn.current && error instanceof Refusal) setRefusal(error);
        }
        now.asking = false;
        void ask();
      };
      if (!now.asking) void ask();
    },
    [id, setDraft],
  );

  const settle = useCallback(
    (last: Choice) => {
      sliding.current = null;
      setHeld(false);
      setDraft(last);
      void send(last);
    },
    [send, setDraft],
  );

  /** Take back what is not kept yet. */
  const drop = useCallback(() => {
    turn.current++;
    window.clearTimeout(pending.current?.timer);
    pending.current = null;
    saving.current = saving.current.then(() => true);
    setHeld(false);
    setChanged(null);
    setQuick(null);
    setRefusal(null);
  }, []);

  /** One step back or forth through the kept versions, after what is on its way to be kept. */
  const step = useCallback(
    (way: "undo" | "redo") => {
      const key = ["plan", id];
      const path = { params: { path: { id } } };
      const mine = ++turn.current;
      saving.current = saving.current.then(async (kept) => {
        if (!kept) {
          drop();
          return true;
        }
        const now = client.getQueryData<Plan>(key);
        if (!(way === "undo" ? now?.can_undo : now?.can_redo)) return true;
        try {
          const answer = await data(
            way === "undo"
              ? api.POST("/api/plans/{id}/undo", path)
              : api.POST("/api/plans/{id}/redo", path),
          );
          await arrived(answer, mine);
          if (mine !== turn.current) return true;
          setQuick(null);
          setRefusal(null);
          const body = bodyOf(choiceOf(answer));
          const figures = await data(api.POST("/api/plans/{id}/quick", { ...path, body }));
          if (mine === turn.current) setQuick(figures);
        } catch (error) {
          if (mine === turn.current && error instanceof Refusal) setRefusal(error);
        }
        return true;
      });
    },
    [arrived, client, drop, id],
  );
  /** Others changed the same meanwhile: keep what is here, or take what is there. */
  const insist = useCallback(() => {
    mineStands.current = true;
    void send(choice);
  }, [choice, send]);
  const giveWay = useCallback(() => {
    drop();
    void client.invalidateQueries({ queryKey: ["plan", id] });
  }, [client, drop, id]);
  const undo = useCallback(() => {
    // what was never kept, because it waits or was refused, is only taken back
    if (draft !== null && !keeping.current) drop();
    else step("undo");
  }, [draft, drop, step]);
  const redo = useCallback(() => step("redo"), [step]);
  const canUndo = plan.can_undo || draft !== null;
  const canRedo = plan.can_redo && draft === null;

  const cancel = useCallback(async () => {
    client.setQueryData(
      ["plan", id],
      await data(api.POST("/api/plans/{id}/cancel", { params: { path: { id } } })),
    );
  }, [client, id]);

  useEffect(() => {
    // a new plan shows its ≈ figures until it has exact ones; an old one has them ready by the time
    // something changes
    if (quick) return;
    const mine = turn.current;
    const path = { params: { path: { id } } };
    void data(api.POST("/api/plans/{id}/quick", { ...path, body: bodyOf(choiceOf(plan)) }))
      .then((figures) => {
        if (mine === turn.current) setQuick(figures);
      })
      .catch(() => undefined);
    // eslint-disable-next-line react-hooks/exhaustive-deps -- once per desk, not per version
  }, [id]);

  useShortcut("undo", undo);
  useShortcut("redo", redo);

  const report = plan.exact?.report ?? null;
  const upToDate = !draft && plan.latest.state === "done";
  const figures = useMemo<Figures | null>(() => {
    if (upToDate && plan.latest.report) return figuresOf(plan.latest.report, "exact");
    if (quick) return figuresOf(quick, "quick");
    return report ? figuresOf(report, "old") : null;
  }, [upToDate, plan.latest.report, quick, report]);

  /** What the figures shown are said of: the draft once its ≈ figures are there. */
  const now = useMemo<Now>(() => {
    if (quick && !upToDate) return quick.now;
    return { spec: plan.latest.spec, resolved: plan.latest.resolved };
  }, [upToDate, plan.latest.spec, plan.latest.resolved, quick]);

  const wanted = useMemo(() => wantedOf(choice, settings), [choice, settings]);
  const computing = !!draft || OPEN.includes(plan.latest.state);
  const failure =
    refusal ??
    (!draft && plan.latest.state === "failed"
      ? new Refusal(plan.latest.message, "", 422)
      : null);
  return {
    choice,
    wanted,
    change,
    slide,
    settle,
    insist,
    giveWay,
    undo,
    redo,
    canUndo,
    canRedo,
    cancel,
    figures,
    now,
    report,
    upToDate,
    /** Something is being dragged: figures follow the hand, nothing is kept yet. */
    held,
    computing: computing && !failure,
    failure,
  };
}

export type Desk = ReturnType<typeof useDesk>;

const bodyOf = (choice: Choice) => ({
  settings: choice.settings as Record<string, Record<string, unknown>>,
  nozzle: choice.nozzle,
  material: choice.material,
  spool: choice.spool,
});
