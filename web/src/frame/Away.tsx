import { useQueryClient } from "@tanstack/react-query";
import { clsx } from "clsx";
import { useEffect } from "react";

import { noteBack, useAway } from "../api/away";

/** How often it is asked whether the service is back (ms). */
const EVERY = 1000;

/** Says that the service is away, asks until it is back, and goes on by itself. */
export function Away() {
  const client = useQueryClient();
  const away = useAway();
  useEffect(() => {
    if (!away) return;
    const timer = setInterval(() => {
      void fetch("/api/health").then(
        (answer) => {
          if (!answer.ok) return;
          noteBack();
          void client.invalidateQueries();
        },
        () => undefined,
      );
    }, EVERY);
    return () => {
      clearInterval(timer);
    };
  }, [away, client]);
  if (!away) return null;
  return (
    <div
      role="status"
      data-away
      className={clsx(
        "fixed bottom-3 left-1/2 z-50 -translate-x-1/2",
        "border border-look bg-paper px-4 py-2 shadow",
      )}
    >
      <b>The service is away. Nothing is lost:</b> what you have typed stays here, and it goes
      on by itself once the service is back.
    </div>
  );
}
