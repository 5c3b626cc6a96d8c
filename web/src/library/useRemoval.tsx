/** Removal that can be taken back: it is carried out a little later, or when the screen is left. */
import { useCallback, useEffect, useRef, useState } from "react";

/** Milliseconds in which it can be taken back. */
const PATIENCE = 8000;

interface Leaving {
  id: number;
  name: string;
  /** It is being carried out. */
  late: boolean;
}

/** ``carryOut`` removes for good; what it refuses to comes back. */
export function useRemoval(carryOut: (id: number) => Promise<unknown>) {
  const [leaving, setLeaving] = useState<readonly Leaving[]>([]);
  const waiting = useRef(new Map<number, number>());
  const last = useRef(carryOut);
  useEffect(() => {
    last.current = carryOut;
  });
  const stay = useCallback(
    (id: number) => setLeaving((now) => now.filter((one) => one.id !== id)),
    [],
  );
  const done = useCallback(
    (id: number) => {
      waiting.current.delete(id);
      setLeaving((now) => now.map((one) => (one.id === id ? { ...one, late: true } : one)));
      // the row stays away until the list without it is there
      void last.current(id).finally(() => stay(id));
    },
    [stay],
  );
  // what was removed is, when nobody is there any more to take it back
  useEffect(() => {
    const open = waiting.current;
    const all = () => {
      for (const [id, timer] of open) {
        window.clearTimeout(timer);
        void last.current(id);
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
    gone: (id: number) => leaving.some((one) => one.id === id),
    remove: (id: number, name: string) => {
      setLeaving((now) => [...now, { id, name, late: false }]);
      waiting.current.set(
        id,
        window.setTimeout(() => done(id), PATIENCE),
      );
    },
    notes: leaving
      .filter((one) => !one.late)
      .map((one) => (
        <p
          key={one.id}
          role="status"
          className="card mb-2 flex items-center gap-3 p-2 text-[13px]"
        >
          {one.name} is removed.
          <button
            className="quiet"
            onClick={() => {
              window.clearTimeout(waiting.current.get(one.id));
              waiting.current.delete(one.id);
              stay(one.id);
            }}
          >
            Undo
          </button>
        </p>
      )),
  };
}
