/** Removal that can be taken back: it is carried out a little later, or when the screen is left. */
import { useCallback, useEffect, useRef, useState } from "react";

/** Milliseconds in which it can be taken back. */
const PATIENCE = 8000;

interface Leaving {
  id: number;
  name: string;
}

export function useRemoval(carryOut: (id: number) => void) {
  const [leaving, setLeaving] = useState<readonly Leaving[]>([]);
  const waiting = useRef(new Map<number, number>());
  const last = useRef(carryOut);
  useEffect(() => {
    last.current = carryOut;
  });
  const done = useCallback((id: number) => {
    waiting.current.delete(id);
    last.current(id);
    setLeaving((now) => now.filter((one) => one.id !== id));
  }, []);
  // what was removed is, when nobody is there any more to take it back
  useEffect(() => {
    const open = waiting.current;
    const all = () => {
      for (const [id, timer] of open) {
        window.clearTimeout(timer);
        last.current(id);
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
      setLeaving((now) => [...now, { id, name }]);
      waiting.current.set(
        id,
        window.setTimeout(() => done(id), PATIENCE),
      );
    },
    notes: leaving.map((one) => (
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
            setLeaving((now) => now.filter((other) => other.id !== one.id));
          }}
        >
          Undo
        </button>
      </p>
    )),
  };
}
