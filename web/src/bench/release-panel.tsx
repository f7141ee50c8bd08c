import { useState } from "react";
import type { Item, ReleaseFormat } from "../api/client";
import { Button } from "../ui/button";
import { bytes, timeOf } from "../ui/format";
import { useBench } from "./store";

const FORMATS: readonly { key: ReleaseFormat; title: string; about: string }[] = [
  {
    key: "stl",
    title: "Binary STL",
    about: "Rounded to single precision; what every machine reads.",
  },
  { key: "3mf", title: "3MF", about: "A package with its unit and name, at full precision." },
  { key: "obj", title: "OBJ", about: "Text, at full precision, vertices shared." },
  { key: "ply", title: "Binary PLY", about: "Rounded to single precision, vertices shared." },
];

type Props = { item: Item; busy: boolean; onRelease: (format: ReleaseFormat) => void };

/** Signing off: what is in the way, the format, and what was released so far. */
export function ReleasePanel({ item, busy, onRelease }: Props) {
  const [format, setFormat] = useState<ReleaseFormat>("stl");
  const open = useBench((bench) => bench.open);
  const blocked = item.seam.filter(
    (s) => s.question !== "release" && s.state !== "tight" && s.state !== "waived",
  );
  const done = item.released !== null;
  return (
    <>
      <header className="px-4 py-4">
        <h2 className="text-verdict font-[650]">
          {blocked.length
            ? "Not yet: it must be tight first."
            : done
              ? "Released."
              : "Tight, ready to release."}
        </h2>
        <p className="mt-1 text-ink-2">
          {blocked.length
            ? "These questions are still open."
            : "The file is written as it will be delivered, read back, examined once more, and only then signed off."}
        </p>
        {blocked.map((s) => (
          <Button key={s.question} className="mt-2 w-full" onClick={() => open(s.question)}>
            {s.title}: {s.text}
          </Button>
        ))}
        {!blocked.length && (
          <>
            <fieldset className="mt-3">
              <legend className="sr-only">Format</legend>
              {FORMATS.map((one) => (
                <label
                  key={one.key}
                  className={`flex gap-3 border-l-3 px-3 py-1.5 ${one.key === format ? "border-blue bg-sheet" : "border-transparent hover:bg-paper-2"}`}
                >
                  <input
                    type="radio"
                    name="format"
                    value={one.key}
                    checked={one.key === format}
                    onChange={() => setFormat(one.key)}
                  />
                  <span>
                    <b className="block font-[650]">{one.title}</b>
                    <span className="text-ink-2">{one.about}</span>
                  </span>
                </label>
              ))}
            </fieldset>
            <Button
              look={done ? "plain" : "primary"}
              hint="D"
              className="mt-3"
              disabled={busy}
              onClick={() => onRelease(format)}
            >
              {done ? "Release again" : "Release"}
            </Button>
          </>
        )}
      </header>
      <div className="min-h-0 flex-1 overflow-auto border-t border-rule">
        {item.releases.map((one) => (
          <section key={one.id} data-testid="release" className="border-b border-rule px-4 py-3">
            <p className="break-all font-[650]">{one.file_name}</p>
            <p className="text-ink-2">
              Revision {one.revision}, {bytes(one.file_bytes)}, signed off by {one.by} at{" "}
              {timeOf(one.at)}
            </p>
            <p className="mt-1 flex gap-4">
              <a className="text-blue hover:underline" href={`/api/releases/${one.id}/file`}>
                Fetch the file
              </a>
              <a
                className="text-blue hover:underline"
                href={`/api/releases/${one.id}/letter`}
                target="_blank"
                rel="noreferrer"
              >
                Letter to the customer
              </a>
            </p>
          </section>
        ))}
        {!item.releases.length && <p className="px-4 py-3 text-ink-2">Not released so far.</p>}
      </div>
    </>
  );
}
