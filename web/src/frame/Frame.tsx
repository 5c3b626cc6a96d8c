import { clsx } from "clsx";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { NavLink, Outlet } from "react-router";

import { api, type Schemas } from "../api/client";
import { CommandBar } from "../command/CommandBar";
import { DropAnywhere } from "../parts/DropAnywhere";
import { Mark } from "./Mark";
import { ShortcutSheet } from "./ShortcutSheet";
import { PLACES } from "./places";

/** Navigation at the left, the screen beside it; a file can be dropped anywhere on either. */
export function Frame({ session }: { session: Schemas["Session"] }) {
  const client = useQueryClient();
  const leave = useMutation({
    mutationFn: () => api.DELETE("/api/session"),
    onSuccess: () => {
      // what is on the screen looks at the session, so that goes last and stays
      const nobody = { signed_in: false, name: "", workshop: "", role: null };
      client.setQueryData<Schemas["Session"]>(["session"], nobody);
      client.removeQueries({ predicate: (query) => query.queryKey[0] !== "session" });
    },
  });
  return (
    <DropAnywhere>
      <CommandBar>
        <div className="flex h-full print:block print:h-auto">
          <nav
            aria-label="Places"
            className="flex w-[62px] shrink-0 flex-col bg-mast text-mast-text print:hidden"
          >
            <div className="flex justify-center py-3">
              <Mark />
            </div>
            {PLACES.map(([to, name]) => (
              <NavLink
                key={to}
                to={to}
                className={({ isActive }) =>
                  "narrow flex min-h-11 items-center justify-center border-l-[3px] " +
                  "px-0.5 text-[13px] -outline-offset-2 " +
                  (isActive
                    ? "border-north bg-paper font-semibold text-ink"
                    : "border-transparent hover:bg-white/15")
                }
              >
                {name}
              </NavLink>
            ))}
            <NavLink
              to="/workshop?page=you"
              className={clsx(
                "narrow mt-auto px-1 py-2 text-center text-[12px]",
                "text-mast-quiet hover:text-mast-text",
              )}
              title={`${session.name}, ${session.workshop}`}
            >
              <span className="block truncate">{session.name}</span>
              <span className="block">{session.role}</span>
            </NavLink>
            <button
              className={clsx(
                "narrow border-0 bg-transparent px-1 py-3 text-[12px]",
                "text-mast-quiet hover:text-mast-text",
              )}
              onClick={() => leave.mutate()}
            >
              Sign out
            </button>
          </nav>
          <div className="min-w-0 flex-1 overflow-auto print:overflow-visible">
            <Outlet />
          </div>
        </div>
        <ShortcutSheet />
      </CommandBar>
    </DropAnywhere>
  );
}
