import { useMutation, useQueryClient } from "@tanstack/react-query";
import { DropdownMenu, Popover } from "radix-ui";
import { type ReactNode, useState } from "react";
import { Link } from "react-router";
import { api, need, type Person } from "../api/client";
import { useJobs } from "../api/queries";
import { plural } from "./format";
import { ChangePassword } from "../session/change-password";
import { tellOtherTabs } from "../session/tabs";
import { keysAreOff, switchKeys } from "./keys";
import { ITEM_LOOK, MENU_LOOK } from "./menu";
import { Mark } from "./mark";
import { Bar } from "./progress";

export function TopBar({
  person,
  children,
  onKeys,
}: {
  person: Person;
  children?: ReactNode;
  onKeys: () => void;
}) {
  return (
    <header className="on-dark flex h-11 shrink-0 items-center gap-6 bg-ink px-4 text-chalk">
      <Link to="/" className="flex items-center gap-2 text-verdict font-[650]">
        <Mark /> Ironcaulk
      </Link>
      <nav aria-label="Where you are" className="flex min-w-0 flex-1 items-center gap-1.5 truncate">
        {children}
      </nav>
      <Running />
      <button
        type="button"
        aria-label="Keys"
        aria-keyshortcuts="?"
        onClick={onKeys}
        className="rounded-sm border border-ink-2 px-1.5 leading-4"
      >
        ?
      </button>
      <PersonMenu person={person} />
    </header>
  );
}

function Running() {
  const jobs = useJobs().data ?? [];
  if (!jobs.length) return <span className="opacity-75">nothing running</span>;
  return (
    <Popover.Root>
      <Popover.Trigger className="underline-offset-4 hover:underline">
        {plural(jobs.length, "job")} running
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content align="end" sideOffset={8} className={`${MENU_LOOK} w-72`}>
          <ul aria-label="Running jobs">
            {jobs.map((job) => (
              <li key={job.id} className="px-2 py-1.5">
                <Link to={`/items/${job.item}`} className="font-[650] hover:underline">
                  {job.item_name}
                </Link>
                <div className="mb-1 text-ink-2">{job.step || "waits its turn"}</div>
                <Bar fraction={job.fraction} label={job.item_name} />
              </li>
            ))}
          </ul>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

function PersonMenu({ person }: { person: Person }) {
  const queries = useQueryClient();
  const [changing, setChanging] = useState(false);
  const leave = useMutation({
    mutationFn: () => need(api.DELETE("/api/session")),
    onSuccess: () => {
      // first the screens go, then what they showed: nothing is asked for in between
      queries.setQueryData(["session"], { person: null, left: true });
      queries.removeQueries({ predicate: ({ queryKey }) => queryKey[0] !== "session" });
      tellOtherTabs("left");
    },
  });
  return (
    <>
      <DropdownMenu.Root>
        <DropdownMenu.Trigger className="hover:underline">{person.name}</DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content align="end" sideOffset={8} className={MENU_LOOK}>
            <DropdownMenu.Label className="px-3 py-1 text-ink-2">
              {person.lead ? "Shop lead" : person.may_change ? "Technician" : "Read-only"}
            </DropdownMenu.Label>
            <DropdownMenu.Item className={ITEM_LOOK} onSelect={() => setChanging(true)}>
              Change password…
            </DropdownMenu.Item>
            <DropdownMenu.Item
              className={ITEM_LOOK}
              onSelect={() => {
                switchKeys(!keysAreOff());
              }}
            >
              {keysAreOff() ? "Switch single keys on" : "Switch single keys off"}
            </DropdownMenu.Item>
            <DropdownMenu.Item className={ITEM_LOOK} onSelect={() => leave.mutate()}>
              Log out
            </DropdownMenu.Item>
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
      {changing && <ChangePassword onClose={() => setChanging(false)} />}
    </>
  );
}
