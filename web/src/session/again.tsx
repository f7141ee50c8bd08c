import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, need, type Person } from "../api/client";
import { Button } from "../ui/button";
import { Dialog } from "../ui/dialog";
import { Complaint, Field, inputLook } from "../ui/field";
import { tellOtherTabs } from "./tabs";

/** Over a screen whose session has ended: logging in goes on where it was. */
export function LogInAgain({ person }: { person: Person }) {
  const queries = useQueryClient();
  const [username, setUsername] = useState(person.username);
  const [password, setPassword] = useState("");
  const login = useMutation({
    mutationFn: () => need(api.POST("/api/session", { body: { username, password } })),
    onSuccess: async (session) => {
      if (session.person?.username !== person.username) {
        // somebody else: nothing of the one before stays on the screen
        window.location.assign("/");
        return;
      }
      queries.setQueryData(["session"], session);
      tellOtherTabs();
      await queries.invalidateQueries({ predicate: ({ queryKey }) => queryKey[0] !== "session" });
    },
  });
  return (
    <Dialog
      open
      onOpenChange={() => undefined}
      title="Your session has ended"
      about="Log in again and go on: the screen and what you wrote are still here."
    >
      <form
        className="flex flex-col gap-4"
        onSubmit={(event) => {
          event.preventDefault();
          login.mutate();
        }}
      >
        <Field label="Name">
          <input
            className={inputLook}
            name="username"
            autoComplete="username"
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
            autoFocus
            required
            value={password}
            onChange={(event) => setPassword(event.target.value)}
          />
        </Field>
        {login.isError && <Complaint>{login.error.message}</Complaint>}
        <div className="flex justify-end">
          <Button look="primary" type="submit" disabled={login.isPending}>
            Log in
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
