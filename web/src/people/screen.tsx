import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { api, need, type Person, type PersonAccount } from "../api/client";
import { useAccounts } from "../api/queries";
import { Button } from "../ui/button";
import { Dialog } from "../ui/dialog";
import { Complaint, Field, inputLook } from "../ui/field";
import { KeyList, type KeyLine } from "../ui/key-list";
import { useKeys } from "../ui/keys";
import { Notice } from "../ui/notice";
import { Places } from "../ui/places";
import { useTitle } from "../ui/title";
import { TopBar } from "../ui/top-bar";

type Role = PersonAccount["role"];

const ROLES: readonly { key: Role; title: string; may: string }[] = [
  { key: "technician", title: "Technician", may: "works on items and orders, and releases" },
  { key: "lead", title: "Shop lead", may: "that, and sheets, machines, limits, people, the trail" },
  { key: "read-only", title: "Read-only", may: "looks at everything and changes nothing" },
];

const KEYS: readonly KeyLine[] = [
  ["+", "New account"],
  ["O", "Back to the orders"],
  ["?", "These keys"],
];

/** Who may do what here; kept by the lead. */
export default function PeopleScreen({ person }: { person: Person }) {
  useTitle("People");
  const accounts = useAccounts();
  const [keysShown, setKeysShown] = useState(false);
  const [editing, setEditing] = useState<PersonAccount | "new" | null>(null);
  const navigate = useNavigate();
  useKeys({
    "+": () => person.lead && setEditing("new"),
    o: () => void navigate("/"),
    "?": () => setKeysShown(true),
  });
  return (
    <div className="flex h-full flex-col">
      <TopBar person={person} onKeys={() => setKeysShown(true)}>
        <Places person={person} here="/people" />
      </TopBar>
      <main className="mx-auto flex min-h-0 w-full max-w-[1000px] flex-1 flex-col px-6">
        <header className="flex items-baseline gap-4 py-4">
          <h1 className="text-verdict font-[650]">Who works here</h1>
          <p className="flex-1 text-ink-2">Accounts are never removed: the trail names them.</p>
          {person.lead && (
            <Button look="primary" hint="+" onClick={() => setEditing("new")}>
              New account
            </Button>
          )}
        </header>
        {accounts.isError && !accounts.data ? (
          <Notice title="The accounts cannot be shown.">{accounts.error.message}</Notice>
        ) : (
          <table className="w-full border-collapse text-left">
            <thead className="border-b border-ink-2 text-ink-2">
              <tr>
                {["Name", "Login name", "Role", "May", ""].map((head) => (
                  <th key={head} scope="col" className="py-2 pr-4 font-semibold">
                    {head || <span className="sr-only">Change</span>}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {accounts.data?.map((one) => (
                <tr key={one.id} className="border-b border-paper-3">
                  <td className="py-2 pr-4 font-[650]">{one.name || one.username}</td>
                  <td className="py-2 pr-4">{one.username}</td>
                  <td className="py-2 pr-4">{ROLES.find((r) => r.key === one.role)?.title}</td>
                  <td className="py-2 pr-4 text-ink-2">
                    {one.active
                      ? ROLES.find((r) => r.key === one.role)?.may
                      : "may not log in any more"}
                  </td>
                  <td className="py-1 text-right">
                    {person.lead && (
                      <Button
                        look="quiet"
                        aria-label={`Change ${one.name || one.username}`}
                        onClick={() => setEditing(one)}
                      >
                        Change…
                      </Button>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
      </main>
      {editing && (
        <Edit
          key={editing === "new" ? "new" : editing.id}
          account={editing === "new" ? null : editing}
          onClose={() => setEditing(null)}
        />
      )}
      <KeyList open={keysShown} onOpenChange={setKeysShown} lines={KEYS} />
    </div>
  );
}

function Edit({ account, onClose }: { account: PersonAccount | null; onClose: () => void }) {
  const queries = useQueryClient();
  const [username, setUsername] = useState("");
  const [first, setFirst] = useState(account?.first_name ?? "");
  const [last, setLast] = useState(account?.last_name ?? "");
  const [role, setRole] = useState<Role>(account?.role ?? "technician");
  const [active, setActive] = useState(account?.active ?? true);
  const [password, setPassword] = useState("");
  const save = useMutation({
    mutationFn: () => {
      const names = { first_name: first.trim(), last_name: last.trim(), role };
      if (!account) {
        return need(api.POST("/api/accounts", { body: { ...names, username, password } }));
      }
      return need(
        api.PATCH("/api/accounts/{id}", {
          params: { path: { id: account.id } },
          body: { ...names, active, ...(password ? { password } : {}) },
        }),
      );
    },
    onSuccess: () => {
      void queries.invalidateQueries({ queryKey: ["accounts"] });
      void queries.invalidateQueries({ queryKey: ["session"] });
      onClose();
    },
  });
  return (
    <Dialog
      open
      onOpenChange={(open) => !open && onClose()}
      title={account ? account.name || account.username : "New account"}
    >
      <form
        className="flex flex-col gap-4"
        onSubmit={(event) => {
          event.preventDefault();
          save.mutate();
        }}
      >
        <div className="grid grid-cols-2 gap-4">
          <Field label="First name">
            <input
              className={inputLook}
              required
              autoFocus
              maxLength={150}
              value={first}
              onChange={(event) => setFirst(event.target.value)}
            />
          </Field>
          <Field label="Last name">
            <input
              className={inputLook}
              maxLength={150}
              value={last}
              onChange={(event) => setLast(event.target.value)}
            />
          </Field>
        </div>
        {!account && (
          <Field label="Login name">
            <input
              className={inputLook}
              name="username"
              required
              maxLength={150}
              autoComplete="off"
              value={username}
              onChange={(event) => setUsername(event.target.value)}
            />
          </Field>
        )}
        <fieldset>
          <legend className="mb-1 text-ink-2">Role</legend>
          {ROLES.map((one) => (
            <label key={one.key} className="flex items-baseline gap-2 py-0.5">
              <input
                type="radio"
                name="role"
                value={one.key}
                checked={role === one.key}
                onChange={() => setRole(one.key)}
              />
              <span>
                <b className="font-[650]">{one.title}</b> {one.may}
              </span>
            </label>
          ))}
        </fieldset>
        <Field
          label={account ? "New password, or empty to leave it" : "Password, at least 12 letters"}
        >
          <input
            className={inputLook}
            name="password"
            type="password"
            autoComplete="new-password"
            required={!account}
            value={password}
            onChange={(event) => setPassword(event.target.value)}
          />
        </Field>
        {account && (
          <label className="flex items-center gap-2">
            <input
              type="checkbox"
              checked={active}
              onChange={(event) => setActive(event.target.checked)}
            />
            May log in
          </label>
        )}
        {save.isError && <Complaint>{save.error.message}</Complaint>}
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Not now</Button>
          <Button look="primary" type="submit" disabled={save.isPending}>
            {account ? "Keep" : "Make the account"}
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
