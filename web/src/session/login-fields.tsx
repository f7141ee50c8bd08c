import { useState, type ReactNode } from "react";
import { Button } from "../ui/button";
import { Complaint, Field, inputLook } from "../ui/field";
import type { useLogin } from "./use-login";

type Props = {
  login: ReturnType<typeof useLogin>;
  /** Who is asked for the password; empty to ask for the name as well. */
  username: string;
  className?: string;
  children?: ReactNode;
};

/** Name, password and the button. */
export function LoginFields({ login, username: known, className, children }: Props) {
  const [username, setUsername] = useState(known);
  const [password, setPassword] = useState("");
  return (
    <form
      className={`flex flex-col gap-4 ${className ?? ""}`}
      onSubmit={(event) => {
        event.preventDefault();
        login.mutate({ username, password });
      }}
    >
      {children}
      <Field label="Name">
        <input
          className={inputLook}
          name="username"
          autoComplete="username"
          autoFocus={!known}
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
          autoFocus={Boolean(known)}
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
  );
}
