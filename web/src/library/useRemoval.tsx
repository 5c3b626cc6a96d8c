/** Removal that can be taken back: it is carried out a little later, or when the screen is left. */
import { useCallback, useEffect, useRef, useState } from "react";

/** Milliseconds in which it can be taken back. */
const PATIENCE = 8000;

interface Leaving {
  /** What tells one press from the others. */
  turn: number;
  ids: readonly number[];
  words: string;
  /** It is being carried out. */
  late: boolean;
}

/** ``carryOut`` removes for good; what it refuses to comes back. */
export function useRemoval(carryOut: (ids: readonly number[]) => Promise<unknown>) {
  const [leaving, setLeaving] = useState<readonly Leaving[]>([]);
  const waiting = useRef(new Map<number, { timer: number; ids: readonly number[] }>());
  const turn = useRef(0);
  const last = useRef(carryOut);
  useEffect(() => {
    last.current = carryOut;
  });
  const stay = useCallback(
    (which: number) => setLeaving((now) => now.filter((one) => one.turn !== which)),
    [],
  );
  const done = useCallback(
    (which: number, ids: readonly number[]) => {
      waiting.current.delete(which);
      setLeaving((now) =>
        now.map((one) => (one.turn === which ? { ...one, late: true } : one)),
      );
      // the rows stay away until the list without them is there
      void last.current(ids).finally(() => stay(which));
    },
    [stay],
  );
  // what was removed is, when nobody is there any more to take it back
  useEffect(() => {
    const open = waiting.current;
    const all = () => {
      for (const { timer, ids } of open.values()) {
        window.clearTimeout(timer);
        void last.current(ids);
      }
      open.clear();
    };
    window.addEventListener("pagehide", all);
    return () => {
      window.removeEventListener("pagehide", all);
      all();
    };
  }, []);
  return {
    gone: (id: number) => leaving.some((one) => one.ids.includes(id)),
    /** Remove what these words name: "bracket is", "3 plans are". */
    remove: (ids: readonly number[], words: string) => {
      const which = ++turn.current;
      setLeaving((now) => [...now, { turn: which, ids, words, late: false }]);
      const timer = window.setTimeout(() => done(which, ids), PATIENCE);
      waiting.current.set(which, { timer, ids });
    },
    notes: leaving
      .filter((one) => !one.late)
      .map((one) => (
        <p
          key={one.turn}
          role="status"
          className="card mb-2 flex items-center gap-3 p-2 text-[13px]"
        >
          {one.words} removed.
          <button
            className="quiet"
            onClick={() => {
              window.clearTimeout(waiting.current.get(one.turn)?.timer);
              waiting.current.delete(one.turn);
              stay(one.turn);
            }}
          >
            Undo
          </button>
        </p>
      )),
  };
}
