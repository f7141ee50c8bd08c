import { useState } from "react";
import type { Item, Release, ReleaseFormat, Revision } from "../api/client";
import { Button } from "../ui/button";
import { Dialog } from "../ui/dialog";
import { bytes, timeOf } from "../ui/format";
import { Reason } from "../ui/reason";
import { CAULK } from "../ui/seam-look";
import { movedBy, takenOut } from "./moved";
import { SetAside } from "./set-aside";
import { useBench } from "./store";
import type { Letter } from "./use-letter";
import type { Work } from "./use-work";

const ABOUT: Record<ReleaseFormat, string> = {
  "3mf": "keeps unit and names, at full precision",
  stl: "rounded to single precision; every machine reads it",
  obj: "text, at full precision, vertices shared",
  ply: "rounded to single precision, vertices shared",
};

type Props = { item: Item; revision: Revision | undefined; work: Work; letter: Letter | null };

/** Signing off: what is in the way, what leaves and on which decisions, and what left so far. */
export function ReleasePanel({ item, revision, work, letter }: Props) {
  const questions = item.seam.filter((s) => s.question !== "release");
  const waits = questions.some((s) => s.state !== "tight" && s.state !== "waived");
  const released = item.released !== null;
  const again = useBench((bench) => bench.again);
  const releaseAgain = useBench((bench) => bench.releaseAgain);
  const left = item.releases.map((one) => (
    <Left key={one.id} item={item.id} release={one} onTakeBack={work.actions.takeBack} />
  ));
  const title = released
    ? "Released."
    : item.set_aside
      ? "Set aside."
      : waits
        ? "Not yet: these are open."
        : "Ready. Read it once more.";
  return (
    <>
      <header className="px-4 py-4">
        <h2 className="text-verdict font-[650]">{title}</h2>
        {item.ready && (
          <p className="mt-1 text-ink-2">
            The file is written, read back and judged as its own bytes, walls and all; only then it
            is signed off.
          </p>
        )}
      </header>
      <div className="min-h-0 flex-1 overflow-auto border-t border-rule">
        {released && left}
        {released && !again && (
          <div className="border-b border-rule px-4 py-3">
            <Button onClick={() => releaseAgain(true)}>Once more, or in another format…</Button>
          </div>
        )}
        <Questions item={item} revision={revision} />
        {letter && <Leave item={item} letter={letter} work={work} />}
        {!released && left}
        <SetAside item={item} work={work} />
      </div>
    </>
  );
}

/** How each question stands, who decided what about it, and how far the skin moved. */
function Questions({ item, revision }: { item: Item; revision: Revision | undefined }) {
  const open = useBench((bench) => bench.open);
  const decided = item.decisions.filter((one) => one.act === "accept" && one.holds.length);
  const account = revision?.account ?? null;
  const left = revision?.report.findings.filter((one) => one.severity === "note") ?? [];
  return (
    <ul aria-label="How it stands" className="px-4">
      {item.seam
        .filter((s) => s.question !== "release")
        .map((s) => (
          <li key={s.question} className="border-b border-rule">
            <button
              type="button"
              onClick={() => open(s.question)}
              className="grid w-full grid-cols-[84px_1fr] items-baseline gap-2 py-2 text-left hover:bg-paper-2"
            >
              <span>
                <b className="block font-[650]">{s.title}</b>
                <span className={`mt-1 block h-1 ${CAULK[s.state]}`} />
              </span>
              <span>
                {s.state === "tight" || s.state === "not run" ? "" : `${s.state}: `}
                {s.text}
              </span>
            </button>
          </li>
        ))}
      {left.map((one) => (
        <li key={one.kind} className="grid grid-cols-[84px_1fr] gap-2 border-b border-rule py-2">
          <b className="font-[650]">Noted</b>
          <span>{one.text}</span>
        </li>
      ))}
      {account && revision && (
        <li className="grid grid-cols-[84px_1fr] gap-2 border-b border-rule py-2">
          <b className="font-[650]">Account of {revision.number}</b>
          <span>
            {movedBy(account)} {takenOut(account)}
          </span>
        </li>
      )}
      {decided.map((one) => (
        <li key={one.id} className="grid grid-cols-[84px_1fr] gap-2 border-b border-rule py-2">
          <b className="font-[650]">Accepted</b>
          <span>
            {one.places[one.holds[0]!]?.title}
            {one.holds.length > 1 && ` and ${one.holds.length - 1} more`}
            <span className="block text-ink-2">
              {one.by || "The shop"}, {timeOf(one.at)}
              {one.material && `, for ${one.material}`}: “{one.reason}”
            </span>
          </span>
        </li>
      ))}
    </ul>
  );
}

/** The format, and the button that asks once. */
function Leave({ item, letter, work }: { item: Item; letter: Letter; work: Work }) {
  const { offers } = letter.proposal;
  const [chosen, setFormat] = useState<ReleaseFormat | null>(null);
  const asking = useBench((bench) => bench.asking);
  const ask = useBench((bench) => bench.ask);
  const offer = offers.find((one) => one.format === chosen) ?? offers[0]!;
  const releaseAgain = useBench((bench) => bench.releaseAgain);
  const go = () => {
    ask(false);
    releaseAgain(false);
    work.release(offer.format, letter).catch(() => undefined);
  };
  return (
    <div className="border-b border-rule px-4 py-3">
      <fieldset>
        <legend className="sr-only">Format</legend>
        {offers.map(({ format }) => (
          <label
            key={format}
            className={`flex gap-3 border-l-3 px-3 py-1 ${format === offer.format ? "border-blue bg-sheet" : "border-transparent hover:bg-paper-2"}`}
          >
            <input
              type="radio"
              name="format"
              value={format}
              checked={format === offer.format}
              onChange={() => setFormat(format)}
            />
            <span>
              <b className="font-[650]">{format.toUpperCase()}</b>{" "}
              <span className="text-ink-2">{ABOUT[format]}</span>
            </span>
          </label>
        ))}
      </fieldset>
      <p className="mt-2 break-all text-ink-2">{offer.file_name}</p>
      <Button
        look={item.released ? "plain" : "primary"}
        hint="D"
        className="mt-3"
        disabled={!work.canWork}
        onClick={() => ask(true)}
      >
        {item.released ? "Release again…" : "Release…"}
      </Button>
      <Dialog
        open={asking}
        onOpenChange={ask}
        title={`Release ${item.name}?`}
        about={`${item.quantity} in ${item.material_name}, as ${offer.file_name}. It can be withdrawn, with a reason.`}
      >
        <div className="flex justify-end gap-3">
          <Button onClick={() => ask(false)}>Not yet</Button>
          <Button look="primary" autoFocus onClick={go}>
            Release as {offer.format.toUpperCase()}
          </Button>
        </div>
      </Dialog>
    </div>
  );
}

type LeftProps = { item: number; release: Release; onTakeBack: Work["actions"]["takeBack"] };

/** One release, to be fetched, read, or withdrawn. */
function Left({ item, release, onTakeBack }: LeftProps) {
  const { withdrawal } = release;
  return (
    <section data-testid="release" className="border-b border-rule px-4 py-3">
      <p className={`break-all font-[650] ${withdrawal ? "line-through" : ""}`}>
        {release.file_name}
      </p>
      <p className="text-ink-2">
        Revision {release.revision}, {bytes(release.file_bytes)}, signed off by {release.by} at{" "}
        {timeOf(release.at)}
      </p>
      <p className="mt-1 flex gap-4">
        <a className="text-blue hover:underline" href={`/api/releases/${release.id}/file`}>
          Fetch the file
        </a>
        <a
          className="text-blue hover:underline"
          href={`/api/releases/${release.id}/letter`}
          target="_blank"
          rel="noreferrer"
        >
          Letter to the customer
        </a>
      </p>
      {withdrawal ? (
        <p className="mt-1 border-l-3 border-rust pl-2.5">
          Withdrawn by {withdrawal.by}, {timeOf(withdrawal.at)}: “{withdrawal.reason}”
        </p>
      ) : (
        <Reason
          about={`${item} withdraw release ${release.id}`}
          label="Reason to withdraw it"
          placeholder="Withdraw it, because…"
          says="Withdraw"
          className="mt-2"
          onReason={(reason) => onTakeBack.mutateAsync({ release: release.id, reason })}
        />
      )}
    </section>
  );
}
