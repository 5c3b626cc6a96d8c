import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, data, type Schemas } from "../api/client";
import { when } from "../format";
import { Invitations } from "./Invitations";
import { Recorded } from "./Recorded";
import { type Role, ROLE_NAMES, ROLES } from "./roles";

type Person = Schemas["Person"];

/** Who works here and as what; owners invite, change and remove, and see what was changed. */
export function People({ role }: { role: Role | null }) {
  const people = useQuery({
    queryKey: ["people"],
    queryFn: () => data(api.GET("/api/people")),
  });
  const owner = role === "owner";
  return (
    <>
      <section className="card p-4" aria-labelledby="people-title">
        <h2 id="people-title" className="text-lg font-semibold">
          People
        </h2>
        <dl className="mb-3 grid grid-cols-[max-content_1fr] gap-x-3 text-[13px] text-ink-2">
          {ROLE_NAMES.map((name) => (
            <div key={name} className="contents">
              <dt className="font-semibold">{name}</dt>
              <dd>{ROLES[name]}</dd>
            </div>
          ))}
        </dl>
        {!owner && (
          <p className="mb-2 text-[13px]">An owner invites people and changes roles.</p>
        )}
        {people.error && (
          <p role="alert" className="text-stop">
            {people.error.message}
          </p>
        )}
        <table className="w-full text-left">
          <thead className="text-[13px] text-ink-2">
            <tr>
              <th className="py-1 font-normal">Person</th>
              <th className="font-normal">Signs in as</th>
              <th className="font-normal">Role</th>
              <th className="font-normal">Last signed in</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {people.data?.map((person) => (
              <Row key={person.id} person={person} owner={owner} />
            ))}
          </tbody>
        </table>
      </section>
      {owner && <Invitations />}
      {owner && <Recorded />}
    </>
  );
}

function Row({ person, owner }: { person: Person; owner: boolean }) {
  const client = useQueryClient();
  const [sure, setSure] = useState(false);
  const again = () => {
    void client.invalidateQueries({ queryKey: ["people"] });
    void client.invalidateQueries({ queryKey: ["session"] });
    void client.invalidateQueries({ queryKey: ["record"] });
  };
  const path = { params: { path: { id: person.id } } };
  const change = useMutation({
    mutationFn: (role: Role) =>
      data(api.PATCH("/api/people/{id}", { ...path, body: { role } })),
    onSettled: again,
  });
  const remove = useMutation({
    mutationFn: () => api.DELETE("/api/people/{id}", path),
    onSettled: again,
  });
  const error = change.error ?? remove.error;
  const name = person.shown_name || person.username;
  return (
    <tr className="border-t border-hairline">
      <td className="py-1.5">
        {name}
        {person.me && <span className="text-ink-2"> (you)</span>}
        {error && (
          <span role="alert" className="block text-[13px] text-stop">
            {error.message}
          </span>
        )}
      </td>
      <td>{person.username}</td>
      <td>
        {owner ? (
          <select
            className="field"
            aria-label={`Role of ${name}`}
            value={person.role}
            onChange={(event) => change.mutate(event.target.value as Role)}
          >
            {ROLE_NAMES.map((role) => (
              <option key={role}>{role}</option>
            ))}
          </select>
        ) : (
          person.role
        )}
      </td>
      <td className="text-[13px]">
        {person.last_sign_in ? when(person.last_sign_in) : "never"}
      </td>
      <td className="text-right">
        {owner &&
          (sure ? (
            <span className="flex justify-end gap-1">
              <button className="quiet text-stop" onClick={() => remove.mutate()}>
                Remove {name}
              </button>
              <button className="quiet" autoFocus onClick={() => setSure(false)}>
                Not now
              </button>
            </span>
          ) : (
            <button
              className="quiet"
              aria-label={`Remove ${name} …`}
              onClick={() => setSure(true)}
            >
              remove …
            </button>
          ))}
      </td>
    </tr>
  );
}
