import { Popover } from "radix-ui";
import { useState } from "react";
import type { Item, RevisionLine } from "../api/client";
import { Button } from "../ui/button";
import { Complaint, Field, inputLook } from "../ui/field";
import { plural, timeOf } from "../ui/format";
import { useBench } from "./store";
import type { Work } from "./use-work";

type Props = {
  item: Item;
  shown: number | null;
  work: Pick<Work, "actions" | "mayKeep">;
  onTrail: () => void;
};

/** The revisions in order; a click looks at one, a second one unrolls its account. */
export function Logbook({ item, shown, work, onTrail }: Props) {
  return (
    <footer aria-label="Logbook" className="flex h-[70px] shrink-0 border-t border-rule bg-paper-2">
      <div className="flex min-w-0 flex-1 overflow-x-auto">
        {item.revisions.map((revision) => (
          <Card
            key={revision.id}
            item={item}
            revision={revision}
            on={revision.id === shown}
            work={work}
          />
        ))}
        {!item.revisions.length && (
          <p className="self-center px-4 text-ink-2">The logbook begins when the file is read.</p>
        )}
      </div>
      <button
        type="button"
        aria-keyshortcuts=";"
        onClick={onTrail}
        className="w-[96px] shrink-0 border-l border-rule px-3.5 text-left hover:bg-paper"
      >
        <b className="font-[650]">Trail</b> <kbd className="font-sans text-small text-ink-2">;</kbd>
        <span className="block text-small text-ink-2">who did what</span>
      </button>
    </footer>
  );
}

function Card(props: { item: Item; revision: RevisionLine; on: boolean; work: Props["work"] }) {
  const { item, revision, on, work } = props;
  const { view, unroll, follow } = useBench.getState();
  const unrolled = useBench((bench) => bench.account === revision.id);
  const current = revision.id === item.current;
  const parent = item.revisions.find((one) => one.id === revision.parent);
  const branched = parent && parent.number !== revision.number - 1;
  const decided = item.decisions.filter((one) => one.revision === revision.number).length;
  return (
    <div
      className={`relative min-w-[150px] shrink-0 border-r border-t-3 border-r-rule ${
        on ? "border-t-ink bg-sheet" : "border-t-transparent hover:bg-paper"
      }`}
    >
      <button
        type="button"
        aria-pressed={on}
        data-revision={revision.number}
        onClick={() => {
          // a card that is looked at already opens to what it stands for
          if (on) unroll(unrolled ? null : revision.id);
          else if (current) {
            // somebody else may have moved the item on to it
            follow(revision.id);
            view(null);
          } else view(revision.id);
        }}
        title={[`${revision.made_by}, ${timeOf(revision.made)}`, revision.note]
          .filter(Boolean)
          .join("\n")}
        className={`h-full w-full px-3.5 pt-1.5 text-left ${on ? "pr-9" : ""}`}
      >
        <span className="block whitespace-nowrap font-[650]">
          {revision.number}&ensp;{revision.name || revision.title}
        </span>
        <span className="block whitespace-nowrap text-ink-2">
          {revision.summary}, {revision.tight ? "tight" : "leaks"}
        </span>
        <span className="block whitespace-nowrap text-small text-ink-2">
          {[
            branched && `from ${parent.number}`,
            decided > 0 && plural(decided, "decision"),
            current ? "work goes on from here" : timeOf(revision.made),
          ]
            .filter(Boolean)
            .join(", ")}
        </span>
      </button>
      {on && work.mayKeep && <Naming revision={revision} work={work} />}
    </div>
  );
}

/** What a revision is called, and a note that goes with it. */
function Naming({ revision, work }: { revision: RevisionLine; work: Props["work"] }) {
  const [open, setOpen] = useState(false);
  const [name, setName] = useState("");
  const [note, setNote] = useState("");
  const { mutate, isPending, error } = work.actions.note;
  return (
    <Popover.Root
      open={open}
      onOpenChange={(next) => {
        setOpen(next);
        setName(revision.name);
        setNote(revision.note);
      }}
    >
      <Popover.Trigger
        aria-label={`Name revision ${revision.number}`}
        title={revision.note || "Name it, or note something"}
        className="absolute right-1 top-1 rounded px-1.5 text-ink-2 hover:bg-paper-2"
      >
        {revision.note ? "✎ •" : "✎"}
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          side="top"
          align="start"
          sideOffset={6}
          aria-label={`Name of revision ${revision.number}`}
          className="z-30 w-[300px] rounded border border-rule bg-paper p-3 shadow-lg"
        >
          <form
            className="space-y-2"
            onSubmit={(event) => {
              event.preventDefault();
              mutate(
                { revision: revision.id, name: name.trim(), note: note.trim() },
                { onSuccess: () => setOpen(false) },
              );
            }}
          >
            <Field label="Called">
              <input
                className={inputLook}
                maxLength={80}
                placeholder={revision.title}
                value={name}
                onChange={(event) => setName(event.target.value)}
              />
            </Field>
            <Field label="Note">
              <textarea
                className={inputLook}
                rows={3}
                maxLength={2000}
                value={note}
                onChange={(event) => setNote(event.target.value)}
              />
            </Field>
            {error && <Complaint>{error.message}</Complaint>}
            <Button type="submit" look="primary" disabled={isPending}>
              Keep it
            </Button>
          </form>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}
