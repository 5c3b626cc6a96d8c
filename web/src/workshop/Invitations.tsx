import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, data } from "../api/client";
import { when } from "../format";
import { type Role, ROLE_NAMES } from "./roles";

/** A way in for one person: a link that is shown once, and those that still stand. */
export function Invitations() {
  const client = useQueryClient();
  const [role, setRole] = useState<Role>("operator");
  const [note, setNote] = useState("");
  const again = () => {
    void client.invalidateQueries({ queryKey: ["invitations"] });
    void client.invalidateQueries({ queryKey: ["record"] });
  };
  const open = useQuery({
    queryKey: ["invitations"],
    queryFn: () => data(api.GET("/api/people/invitations")),
  });
  const make = useMutation({
    mutationFn: () =>
      data(api.POST("/api/people/invitations", { body: { role, note: note.trim() } })),
    onSuccess: () => {
      setNote("");
      again();
    },
  });
  const back = useMutation({
    mutationFn: (id: number) =>
      api.DELETE("/api/people/invitations/{id}", { params: { path: { id } } }),
    onSettled: again,
  });
  const link = make.data && `${window.location.origin}/invited/${make.data.secret}`;
  return (
    <section className="card p-4" aria-labelledby="invite-title">
      <h2 id="invite-title" className="text-lg font-semibold">
        Invite
      </h2>
      <form
        className="mt-1 flex flex-wrap items-center gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          make.mutate();
        }}
      >
        <input
          className="field w-52"
          aria-label="Who the invitation is for"
          placeholder="who it is for"
          maxLength={80}
          value={note}
          onChange={(event) => setNote(event.target.value)}
        />
        <label className="flex items-center gap-1">
          as
          <select
            className="field"
            aria-label="Role of the invitation"
            value={role}
            onChange={(event) => setRole(event.target.value as Role)}
          >
            {ROLE_NAMES.map((name) => (
              <option key={name}>{name}</option>
            ))}
          </select>
        </label>
        <button className="action" disabled={make.isPending}>
          Make a link
        </button>
      </form>
      {(make.error ?? back.error) && (
        <p role="alert" className="mt-1 text-[13px] text-stop">
          {(make.error ?? back.error)?.message}
        </p>
      )}
      {link && (
        <div className="mt-2 flex flex-wrap items-center gap-2" role="status">
          <input
            className="field min-w-96 flex-1"
            aria-label="Link of the invitation"
            readOnly
            value={link}
            onFocus={(event) => event.target.select()}
          />
          {window.isSecureContext && (
            <button className="quiet" onClick={() => void navigator.clipboard.writeText(link)}>
              Copy
            </button>
          )}
          <p className="w-full text-[13px] text-ink-2">
            Hand it over yourself. It lets one person in, for a week, and is shown this once.
          </p>
        </div>
      )}
      {!!open.data?.length && (
        <ul className="mt-2">
          {open.data.map((one) => (
            <li key={one.id} className="flex items-center gap-2 border-t border-hairline py-1">
              <span className="flex-1">
                {one.note || "somebody"}, as {one.role}
                <span className="text-[13px] text-ink-2"> until {when(one.expires)}</span>
              </span>
              <button
                className="quiet"
                aria-label={`Take back the invitation of ${one.note || "somebody"}`}
                onClick={() => back.mutate(one.id)}
              >
                take back
              </button>
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}
