import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type HTMLInputTypeAttribute, useState } from "react";
import { useNavigate } from "react-router";

import { api, data } from "../api/client";
import { Message } from "../frame/Message";
import { ROLES } from "../workshop/roles";
import { Contours } from "./Contours";

/** Where an invitation leads: a name and a password, and one is in. */
export function Invited({ secret }: { secret: string }) {
  const client = useQueryClient();
  const navigate = useNavigate();
  const path = { params: { path: { secret } } };
  const [values, setValues] = useState({ shown_name: "", username: "", password: "" });
  const invitation = useQuery({
    queryKey: ["invitation", secret],
    queryFn: () => data(api.GET("/api/invitations/{secret}", path)),
    retry: false,
  });
  const join = useMutation({
    mutationFn: () => data(api.POST("/api/invitations/{secret}", { ...path, body: values })),
    onSuccess: (session) => {
      client.setQueryData(["session"], session);
      void navigate("/parts");
    },
  });
  if (invitation.isPending)
    return <Message title="North Pace" text="Opening the invitation …" />;
  if (invitation.error)
    return <Message title="No way in" text={`${invitation.error.message}.`} />;
  const field = (
    name: keyof typeof values,
    label: string,
    complete: string,
    type: HTMLInputTypeAttribute = "text",
  ) => (
    <label className="flex flex-col gap-1 text-[13px]">
      {label}
      <input
        className="field min-h-9"
        type={type}
        value={values[name]}
        autoComplete={complete}
        autoFocus={name === "shown_name"}
        required
        onChange={(event) => setValues({ ...values, [name]: event.target.value })}
      />
    </label>
  );
  return (
    <main className="relative flex h-full items-center overflow-hidden">
      <Contours />
      <form
        className="card relative ml-[12vw] flex w-80 flex-col gap-3 p-6"
        onSubmit={(event) => {
          event.preventDefault();
          join.mutate();
        }}
      >
        <div>
          <h1 className="text-xl leading-tight font-semibold">{invitation.data.workshop}</h1>
          <p className="text-[13px] text-ink-2">
            You are invited as {invitation.data.role}: {ROLES[invitation.data.role]}.
          </p>
        </div>
        {field("shown_name", "Your name, as others see it", "name")}
        {field("username", "Name to sign in with", "username")}
        {field("password", "Password, at least 10 characters", "new-password", "password")}
        {join.error && (
          <p role="alert" className="text-[13px] text-stop">
            {join.error.message}
          </p>
        )}
        <button className="action" disabled={join.isPending}>
          Join
        </button>
      </form>
    </main>
  );
}
