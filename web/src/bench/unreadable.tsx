import { useRef, useState } from "react";
import type { Item } from "../api/client";
import { Button } from "../ui/button";
import { useDraft } from "../ui/drafts";
import { inputLook } from "../ui/field";
import { timeOf } from "../ui/format";
import { Reason } from "../ui/reason";
import { SetAside } from "./set-aside";
import type { Work } from "./use-work";

type Props = { item: Item; work: Work };

/** Whether a file was not read for want of something here, rather than for what it holds. */
const notTheFile = ({ job }: Item) => job?.state === "failed" || job?.state === "cancelled";

/** A file that was not read: once more, another one in its place, a letter, or nothing more. */
export function Unreadable({ item, work }: Props) {
  const again = notTheFile(item);
  const what = again ? wordsOf(item).was : "This file cannot be read.";
  return (
    <div className="min-h-0 flex-1 overflow-auto">
      <header className="border-b border-rule px-4 py-4">
        <h2 className="text-verdict font-[650]">{item.set_aside ? "Set aside." : what}</h2>
        <p className="mt-1 text-ink-2">{item.problem}</p>
      </header>
      {again && !item.set_aside && <Again item={item} work={work} />}
      <Another item={item} work={work} />
      <Write item={item} work={work} />
      <SetAside item={item} work={work} />
    </div>
  );
}

/** What is told of a first revision that was to be read from a file, or made of another item. */
const wordsOf = ({ job }: Item) =>
  job?.kind === "derive"
    ? { was: "This item was not made.", again: "Make it again", title: "Make it once more" }
    : { was: "This file was not read.", again: "Read it again", title: "Read it once more" };

function Again({ item, work }: Props) {
  const { read } = work.actions;
  const words = wordsOf(item);
  return (
    <section className="border-b border-rule px-4 py-3">
      <h3 className="font-[650]">{words.title}</h3>
      <p className="text-ink-2">
        {item.job?.state === "cancelled"
          ? "It was stopped before it came to an end."
          : "What went wrong need not lie in what was sent."}
      </p>
      <Button
        look="primary"
        className="mt-2"
        disabled={!work.mayKeep || work.busy || read.isPending}
        onClick={() => read.mutate()}
      >
        {words.again}
      </Button>
    </section>
  );
}

function Another({ item, work }: Props) {
  const input = useRef<HTMLInputElement>(null);
  const [file, setFile] = useState<File | null>(null);
  return (
    <section className="border-b border-rule px-4 py-3">
      <h3 className="font-[650]">Take another file</h3>
      <p className="text-ink-2">It takes the place of this one, which is kept.</p>
      <div className="mt-2 flex items-center gap-3">
        <Button onClick={() => input.current?.click()}>Choose a file…</Button>
        <span className="min-w-0 break-all">{file?.name ?? "none chosen"}</span>
      </div>
      <input
        ref={input}
        type="file"
        aria-label="Another file"
        className="hidden"
        onChange={(event) => setFile(event.target.files?.[0] ?? null)}
      />
      {file && (
        <Reason
          about={`${item.id} replace`}
          label="Reason to take another file"
          placeholder="Because…"
          says="Take it"
          className="mt-2"
          onReason={
            work.busy ? null : (reason) => work.actions.replace.mutateAsync({ file, reason })
          }
        />
      )}
    </section>
  );
}

/** What can be proposed to write about a file that cannot be read; nothing if that is not its fault. */
const proposed = (item: Item) =>
  notTheFile(item)
    ? ""
    : `Your file ${item.file_name} could not be read: ${item.problem}\nPlease send it once more.`;

function Write({ item, work }: Props) {
  const [text, write] = useDraft(`${item.id} write`);
  const shown = text || proposed(item);
  const { write: send } = work.actions;
  return (
    <section className="border-b border-rule px-4 py-3">
      <h3 className="font-[650]">Write to the customer</h3>
      <textarea
        aria-label="Letter"
        rows={5}
        className={`${inputLook} mt-2`}
        value={shown}
        onChange={(event) => write(event.target.value)}
      />
      <Button
        className="mt-2"
        disabled={shown.trim().length < 3 || send.isPending}
        onClick={() => send.mutate({ text: shown.trim() }, { onSuccess: () => write("") })}
      >
        Keep this letter
      </Button>
      {item.letters.map((one) => (
        <p key={one.id} className="mt-2">
          <a
            className="text-blue hover:underline"
            href={`/api/letters/${one.id}`}
            target="_blank"
            rel="noreferrer"
          >
            Letter of {timeOf(one.at)}
          </a>{" "}
          <span className="text-ink-2">by {one.by}</span>
        </p>
      ))}
    </section>
  );
}
