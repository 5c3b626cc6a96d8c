import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api, data, type Schemas } from "../api/client";
import { when } from "../format";
import { keysFor } from "../frame/shortcuts";
import { chooseTheme, chosenTheme, THEMES } from "../frame/theme";
import { ROLES } from "./roles";

/** One's own name, password and the places one is signed in. */
export function You({ session }: { session: Schemas["Session"] }) {
  return (
    <>
      <section className="card p-4">
        <h2 className="text-lg font-semibold">{session.name}</h2>
        {session.role && (
          <p className="text-[13px] text-ink-2">
            {session.role}: {ROLES[session.role]}
          </p>
        )}
      </section>
      <Colours />
      <Password />
      <Places />
    </>
  );
}

/** How the page is drawn on this computer. */
function Colours() {
  return (
    <section className="card p-4" aria-labelledby="colours-title">
      <h2 id="colours-title" className="text-lg font-semibold">
        This computer
      </h2>
      <div className="mt-1 flex flex-wrap items-center gap-2">
        <span>colours</span>
        <span className="flex" role="group" aria-label="Colours">
          {THEMES.map((theme) => (
            <button
              key={theme}
              className="quiet"
              aria-pressed={chosenTheme() === theme}
              onClick={() => chooseTheme(theme)}
            >
              {theme}
            </button>
          ))}
        </span>
        <span className="text-[13px] text-ink-2">
          shortcuts: press {keysFor("sheet")}, and say what to do: {keysFor("bar")}
        </span>
      </div>
    </section>
  );
}

function Password() {
  const client = useQueryClient();
  const [old, setOld] = useState("");
  const [fresh, setFresh] = useState("");
  const change = useMutation({
    mutationFn: () => api.POST("/api/session/password", { body: { old, new: fresh } }),
    onSuccess: () => {
      setOld("");
      setFresh("");
      void client.invalidateQueries({ queryKey: ["places"] });
    },
  });
  return (
    <section className="card p-4" aria-labelledby="password-title">
      <h2 id="password-title" className="text-lg font-semibold">
        Password
      </h2>
      <p className="mb-2 text-[13px] text-ink-2">
        At least 10 characters, not only digits, no common word and not like your name. A new
        one signs you out everywhere else.
      </p>
      <form
        className="flex flex-wrap gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          change.mutate();
        }}
      >
        <input
          className="field w-52"
          type="password"
          aria-label="Password now"
          placeholder="password now"
          autoComplete="current-password"
          required
          value={old}
          onChange={(event) => setOld(event.target.value)}
        />
        <input
          className="field w-52"
          type="password"
          aria-label="New password"
          placeholder="new password"
          autoComplete="new-password"
          required
          minLength={10}
          value={fresh}
          onChange={(event) => setFresh(event.target.value)}
        />
        <button className="quiet" disabled={change.isPending}>
          Change it
        </button>
      </form>
      {change.error && (
        <p role="alert" className="mt-1 text-[13px] text-stop">
          {change.error.message}
        </p>
      )}
      {change.isSuccess && (
        <p role="status" className="mt-1 text-[13px]">
          Changed.
        </p>
      )}
    </section>
  );
}

function Places() {
  const client = useQueryClient();
  const places = useQuery({
    queryKey: ["places"],
    queryFn: () => data(api.GET("/api/session/places")),
  });
  const end = useMutation({
    mutationFn: (id: number) =>
      api.DELETE("/api/session/places/{id}", { params: { path: { id } } }),
    onSettled: () => client.invalidateQueries({ queryKey: ["places"] }),
  });
  return (
    <section className="card p-4" aria-labelledby="places-title">
      <h2 id="places-title" className="text-lg font-semibold">
        Signed in
      </h2>
      {(places.error ?? end.error) && (
        <p role="alert" className="text-stop">
          {(places.error ?? end.error)?.message}
        </p>
      )}
      <ul>
        {places.data?.map((place) => (
          <li key={place.id} className="flex gap-3 border-t border-hairline py-1 text-[13px]">
            <span className="w-52">since {when(place.since)}</span>
            <span className="w-32">{place.address}</span>
            <span className="narrow min-w-0 flex-1 truncate" title={place.agent}>
              {place.agent}
            </span>
            {place.here ? (
              <span className="text-ink-2">here</span>
            ) : (
              <button
                className="quiet"
                aria-label={`sign out there: ${place.address ?? "an unknown place"}`}
                onClick={() => end.mutate(place.id)}
              >
                sign out there
              </button>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}
