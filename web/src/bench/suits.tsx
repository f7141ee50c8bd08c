import { useState } from "react";
import type { Item, Report, Revision } from "../api/client";
import { shortfall } from "../ui/format";
import { Reason } from "../ui/reason";

type Verdict = Report["verdicts"][number];
type Fault = Verdict["faults"][number];
type Covered = Item["covered"];

const money = (x: number) => x.toFixed(2);

/** One demand that is not met, with what was found and what is asked for. */
export function faultText({ what, title, found, asked, places }: Fault): string {
  const at = `at ${places} ${places === 1 ? "place" : "places"}`;
  if (what === "sealed-voids") return `${places} ${places === 1 ? "hollow" : "hollows"} undrained`;
  if (what === "too-small") return `longest side ${found.toFixed(1)} of at least ${asked} mm`;
  if (what === "too-large") return `a side ${found.toFixed(1)} of at most ${asked} mm`;
  const told = shortfall(found, asked);
  return `${title.toLowerCase()} ${told.found} of ${told.asked} mm ${at}`;
}

/** How large it would have to be, in words; nothing where it passes as it is. */
export function scaleText({ passes, scale, faults }: Verdict): string {
  if (passes || faults.every((f) => f.what === "sealed-voids")) return "";
  if (scale === null) return "At no size both thick enough and within the largest part.";
  return `Would pass at ${(scale * 100).toFixed(1)} % of its size.`;
}

/** Kinds whose places are all accepted. */
const acceptedKinds = (covered: Covered, { report }: Revision) =>
  report.findings
    .filter(({ kind, spots }) => covered.filter((one) => one.kind === kind).length === spots.length)
    .map((one) => one.kind);

/** What nobody accepted: a hollow may be meant in any material, all else in the one ordered. */
const openFaults = (one: Verdict, ordered: string, accepted: string[]) =>
  one.faults.filter(
    ({ what }) => !accepted.includes(what) || (what !== "sealed-voids" && one.key !== ordered),
  );

/** The one ordered first, then those that would take it. */
const inOrder = (verdicts: Verdict[], ordered: string, accepted: string[]) => {
  const passes = (one: Verdict) => openFaults(one, ordered, accepted).length === 0;
  const rank = (one: Verdict) => (one.key === ordered ? 0 : passes(one) ? 1 : 2);
  return [...verdicts].sort((a, b) => rank(a) - rank(b));
};

const passText = (one: Verdict, open: Fault[]) => {
  if (open.length) return "✕ fails";
  return one.faults.length ? "✓ passes as accepted" : "✓ passes";
};

type Props = {
  /** Key of the item. */
  item: number;
  revision: Revision;
  /** Key of the material ordered. */
  ordered: string;
  /** Which places somebody accepted. */
  covered: Covered;
  /** Take another material; null when nothing can be done now. */
  onTake: ((key: string, reason: string) => Promise<unknown>) | null;
};

/** Every material of the shop against the part as it is. */
export function Suits({ item, revision, ordered, covered, onTake }: Props) {
  const accepted = acceptedKinds(covered, revision);
  const [open, setOpen] = useState<string | null>(null);
  const measured = revision.sounded;
  return (
    <div className="min-h-0 flex-1 overflow-auto border-t border-rule">
      {!measured && (
        <p className="border-b border-rule px-4 py-2 text-ink-2">
          Walls were not measured: this tells of sizes, hollows and prices only.
        </p>
      )}
      <ul aria-label="Materials">
        {inOrder(revision.report.verdicts, ordered, accepted).map((one) => {
          const faults = openFaults(one, ordered, accepted);
          const on = open === one.key;
          const mine = one.key === ordered;
          return (
            <li
              key={one.key}
              data-material={one.key}
              className={`border-b border-l-3 border-b-rule ${
                on ? "border-l-blue bg-sheet" : "border-l-transparent"
              }`}
            >
              <button
                type="button"
                aria-expanded={on}
                onClick={() => setOpen(on ? null : one.key)}
                className="block w-full px-3 py-2 text-left hover:bg-paper-2"
              >
                <span className="flex items-baseline gap-2">
                  <b className="font-[650]">{one.name}</b>
                  {mine && <span className="text-ink-2">as ordered</span>}
                  <span
                    className={`ml-auto font-[650] ${faults.length ? "text-rust" : "text-verdigris"}`}
                  >
                    {passText(one, faults)}
                  </span>
                </span>
                <span className="block text-ink-2">
                  {one.process}, {one.weight_g.toFixed(1)} g, {money(one.price)} a part
                </span>
                {one.faults.map((fault) => (
                  <span key={fault.what} className="block">
                    {faultText(fault)}
                    {faults.includes(fault) ? "" : ", accepted"}
                  </span>
                ))}
                {faults.length > 0 && scaleText(one) && (
                  <span className="block">{scaleText(one)}</span>
                )}
              </button>
              {on && !mine && (
                <Reason
                  about={`${item} material ${one.key}`}
                  label={`Reason to take ${one.name}`}
                  placeholder="Because the customer…"
                  says="Take this"
                  className="px-3 pb-3"
                  onReason={onTake && ((reason) => onTake(one.key, reason))}
                />
              )}
            </li>
          );
        })}
      </ul>
    </div>
  );
}
