import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, need } from "../api/client";
import { Button } from "../ui/button";
import { Complaint, Field, inputLook } from "../ui/field";
import { Mark } from "../ui/mark";
import { tellOtherTabs } from "./tabs";

export function Login() {
  const queries = useQueryClient();
  const [username, setUsername] = useState("");
  const [password, setPassword] = useState("");
  const login = useMutation({
    mutationFn: () => need(api.POST("/api/session", { body: { username, password } })),
    onSuccess: async (session) => {
      queries.setQueryData(["session"], session);
      tellOtherTabs();
      // what was refused meanwhile is asked for again
      await queries.invalidateQueries({ predicate: ({ queryKey }) => queryKey[0] !== "session" });
    },
  });
  return (
    <main className="grid h-full grid-cols-[1fr_420px]">
      <div className="dock flex flex-col justify-end p-12 text-chalk">
        <p className="max-w-md text-title font-[650]">Tight before it prints.</p>
        <p className="mt-2 max-w-md opacity-85">
          Every mesh that comes in is examined, mended with an account of what changed, read back as
          it will be delivered, and only then released.
        </p>
      </div>
      <form
        className="flex flex-col justify-center gap-4 bg-paper p-12"
        onSubmit={(event) => {
          event.preventDefault();
          login.mutate();
        }}
      >
        <h1 className="mb-2 flex items-center gap-2 text-title font-[650]">
          <Mark /> Ironcaulk
        </h1>
        <Field label="Name">
          <input
            className={inputLook}
            name="username"
            autoComplete="username"
            autoFocus
            required
            value={username}
            onChange={(event) => setUsername(event.target.value)}
          />
        </Field>
        <Field label="Password">
          <input
            className={inputLook}
            name="password"
            type="password"
            autoComplete="current-password"
            required
            value={password}
            onChange={(event) => setPassword(event.target.value)}
          />
        </Field>
        {login.isError && <Complaint>{login.error.message}</Complaint>}
        <Button look="primary" type="submit" disabled={login.isPending}>
          Log in
        </Button>
      </form>
    </main>
  );
}
