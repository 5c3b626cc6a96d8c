import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type SyntheticEvent, useState } from "react";

import { api, data } from "../api/client";
import { Mark } from "../frame/Mark";
import { Contours } from "./Contours";

export function SignIn() {
  const client = useQueryClient();
  const [username, setUsername] = useState("");
  const [password, setPassword] = useState("");
  const enter = useMutation({
    mutationFn: () => data(api.POST("/api/session", { body: { username, password } })),
    onSuccess: (session) => client.setQueryData(["session"], session),
  });
  const submit = (event: SyntheticEvent) => {
    event.preventDefault();
    enter.mutate();
  };
  return (
    <main className="relative flex h-full items-center overflow-hidden">
      <Contours />
      <form onSubmit={submit} className="card relative ml-[12vw] flex w-80 flex-col gap-3 p-6">
        <div className="flex items-center gap-3">
          <Mark size={36} />
          <div>
            <h1 className="text-xl leading-tight font-semibold">North Pace</h1>
            <p className="text-[13px] text-ink-2">how a part is laid down, worked out first</p>
          </div>
        </div>
        <label className="flex flex-col gap-1 text-[13px]">
          Name
          <input
            className="field min-h-9"
            value={username}
            autoComplete="username"
            autoFocus
            required
            onChange={(event) => setUsername(event.target.value)}
          />
        </label>
        <label className="flex flex-col gap-1 text-[13px]">
          Password
          <input
            className="field min-h-9"
            type="password"
            value={password}
            autoComplete="current-password"
            required
            onChange={(event) => setPassword(event.target.value)}
          />
        </label>
        {enter.error && (
          <p role="alert" className="text-[13px] text-stop">
            {enter.error.message}
          </p>
        )}
        <button className="action" disabled={enter.isPending}>
          Sign in
        </button>
      </form>
    </main>
  );
}
