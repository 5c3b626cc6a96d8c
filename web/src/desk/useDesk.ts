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
  type Pace,
  type Plan,
  type Quick,
  Refusal,
  type Report,
  type Setting,
  type Surface,
} from "../api/client";
import { OPEN } from "../api/hooks";
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
    surface: source.surface,
  };
}

export function useDesk(plan: Plan, settings: Setting[]) {
  const client = useQueryClient();
  const [draft, setDraft] = useState<Choice | null>(null);
  const [quick, setQuick] = useState<Quick | null>(null);
  const [refusal, setRefusal] = useState<Refusal | null>(null);
  const [past, setPast] = useState<Choice[]>([]);
  const [future, setFuture] = useState<Choice[]>([]);
  const timer = useRef<number>(undefined);
  const turn = useRef(0);
  /**
   * While something is dragged: where it began, what is wanted last, and whether an answer is on
   * its way.
   */
  const sliding = useRef<{ from: Choice; wanted: Choice | null; asking: boolean } | null>(
    null,
  );
  const saved = useMemo(() => choiceOf(plan), [plan]);
  const choice = draft ?? saved;
  const id = plan.id;

  const send = useCallback(
    async (next: Choice) => {
      const mine = ++turn.current;
      const body = bodyOf(next);
      const path = { params: { path: { id } } };
      const fail = (error: unknown) => {
        if (mine !== turn.current) return;
        setQuick(null);
        setRefusal(error instanceof Refusal ? error : new Refusal(String(error), "", 0));
      };
      try {
        const figures = await data(api.POST("/api/plans/{id}/quick", { ...path, body }));
        // answers may overtake each other: only the newest question counts, and only it is kept
        if (mine !== turn.current) return;
        setQuick(figures);
        setRefusal(null);
      } catch (error) {
        return fail(error);
      }
      // The exact plan is asked for once typing rests; the ≈ figures are there already.
      window.clearTimeout(timer.current);
      timer.current = window.setTimeout(async () => {
        try {
          const changed = await data(api.PATCH("/api/plans/{id}", { ...path, body }));
          // an answer to an older question must not put the plan back for a moment
          await client.cancelQueries({ queryKey: ["plan", id] });
          if (mine !== turn.current) return;
          client.setQueryData(["plan", id], changed);
          setDraft(null);
        } catch (error) {
          fail(error);
        }
      }, TYPING);
    },
    [client, id],
  );

  const change = useCallback(
    (next: Choice) => {
      setPast((before) => [...before.slice(-99), choice]);
      setFuture([]);
      setDraft(next);
      setQuick(null);
      void send(next);
    },
    [choice, send],
  );

  /**
   * Follow a hand: ≈ figures of the newest place, one question at a time; nothing is kept before
   * `settle`.
   */
  const slide = useCallback(
    (next: Choice) => {
      const now = (sliding.current ??= { from: choice, wanted: null, asking: false });
      now.wanted = next;
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
    [choice, id],
  );

  const settle = useCallback(
    (last: Choice) => {
      const from = sliding.current?.from ?? choice;
      sliding.current = null;
      setPast((before) => [...before.slice(-99), from]);
      setFuture([]);
      setDraft(last);
      void send(last);
    },
    [choice, send],
  );

  const undo = useCallback(() => {
    const last = past.at(-1);
    if (!last) return;
    setPast(past.slice(0, -1));
    setFuture((after) => [...after, choice]);
    setDraft(last);
    setQuick(null);
    void send(last);
  }, [past, choice, send]);

  const redo = useCallback(() => {
    const next = future.at(-1);
    if (!next) return;
    setFuture(future.slice(0, -1));
    setPast((before) => [...before, choice]);
    setDraft(next);
    setQuick(null);
    void send(next);
  }, [future, choice, send]);

  const cancel = useCallback(async () => {
    client.setQueryData(
      ["plan", id],
      await data(api.POST("/api/plans/{id}/cancel", { params: { path: { id } } })),
    );
  }, [client, id]);

  useEffect(() => {
    // the first ≈ figures of a part take longest: asked for while the maker still looks, they are
    // there when something changes
    const now = choiceOf(plan);
    void api
      .POST("/api/plans/{id}/quick", { params: { path: { id } }, body: now })
      .catch(() => undefined);
    // eslint-disable-next-line react-hooks/exhaustive-deps -- once per desk, not per version
  }, [id]);

  useEffect(() => {
    const key = (event: KeyboardEvent) => {
      const typing =
        event.target instanceof HTMLInputElement ||
        event.target instanceof HTMLTextAreaElement;
      if ((event.ctrlKey || event.metaKey) && event.key.toLowerCase() === "z" && !typing) {
        event.preventDefault();
        if (event.shiftKey) redo();
        else undo();
      }
    };
    window.addEventListener("keydown", key);
    return () => window.removeEventListener("keydown", key);
  }, [undo, redo]);

  const report = plan.exact?.report ?? null;
  const upToDate = !draft && plan.latest.state === "done";
  const figures = useMemo<Figures | null>(() => {
    if (upToDate && plan.latest.report) return figuresOf(plan.latest.report, "exact");
    if (quick) return figuresOf(quick, "quick");
    return report ? figuresOf(report, "old") : null;
  }, [upToDate, plan.latest.report, quick, report]);

  const wanted = useMemo(() => wantedOf(choice, settings), [choice, settings]);
  const computing = !!draft || OPEN.includes(plan.latest.state);
  const failure =
    refusal ??
    (!draft && plan.latest.state === "failed"
      ? new Refusal(plan.latest.message ?? "", "", 422)
      : null);
  return {
    choice,
    wanted,
    change,
    slide,
    settle,
    undo,
    redo,
    canUndo: past.length > 0,
    canRedo: future.length > 0,
    cancel,
    figures,
    report,
    upToDate,
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
