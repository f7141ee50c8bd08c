import { useState } from "react";
import { useQueries } from "@tanstack/react-query";
import type { Item, RevisionLine } from "../api/client";
import { revisionQuery } from "../api/queries";
import { Dialog } from "../ui/dialog";
import { linesFor } from "./figures";
import { movedBy } from "./moved";

const MOST = 4;

type Props = {
  item: Item;
  /** Those that are looked at, to begin with. */
  first: readonly number[];
  /** Key of the material ordered. */
  material: string;
  onClose: () => void;
};

/** Up to four revisions in numbers, side by side; what differs from the first stands out. */
export function CompareTable({ item, first, material, onClose }: Props) {
  const [chosen, setChosen] = useState<readonly number[]>(() => [...new Set(first)].slice(0, MOST));
  const lines = chosen
    .map((id) => item.revisions.find((one) => one.id === id))
    .filter((one) => one !== undefined);
  const found = useQueries({ queries: lines.map((one) => revisionQuery(one.id, one.examination)) });
  const known = found.flatMap(({ data }) => data ?? []);
  const rows = linesFor(known, material, item.quantity);
  const set = (column: number, id: number) =>
    setChosen(chosen.map((one, i) => (i === column ? id : one)));
  const free = item.revisions.filter((one) => !chosen.includes(one.id));
  return (
    <Dialog open onOpenChange={(open) => !open && onClose()} title="Revisions in numbers" widest>
      <table aria-label="Revisions in numbers" className="w-full">
        <thead>
          <tr>
            <th />
            {lines.map((line, i) => (
              <th key={line.id} className="pb-2 pl-4 text-left font-normal">
                <select
                  aria-label={`Revision in column ${i + 1}`}
                  className="w-full rounded border border-slate bg-sheet px-2 py-1"
                  value={line.id}
                  onChange={(event) => set(i, Number(event.target.value))}
                >
                  {[line, ...free].map((one) => (
                    <option key={one.id} value={one.id}>
                      {calledOf(one)}
                    </option>
                  ))}
                </select>
              </th>
            ))}
            {chosen.length < MOST && free.length > 0 && (
              <th className="pb-2 pl-4 text-left font-normal">
                <select
                  aria-label="One more"
                  className="rounded border border-rule bg-paper px-2 py-1"
                  value=""
                  onChange={(event) => setChosen([...chosen, Number(event.target.value)])}
                >
                  <option value="">One more…</option>
                  {free.map((one) => (
                    <option key={one.id} value={one.id}>
                      {calledOf(one)}
                    </option>
                  ))}
                </select>
              </th>
            )}
          </tr>
        </thead>
        <tbody>
          {known.length === lines.length &&
            rows.map(({ title, of }) => (
              <tr key={title} className="border-t border-rule">
                <th className="whitespace-nowrap py-1 text-left font-normal text-ink-2">{title}</th>
                {known.map((one, i) => (
                  <td
                    key={one.id}
                    className={`py-1 pl-4 ${i > 0 && of(one) !== of(known[0]!) ? "font-[650]" : ""}`}
                  >
                    {of(one) || "—"}
                  </td>
                ))}
              </tr>
            ))}
          {known.length === lines.length && (
            <tr className="border-t border-rule align-top">
              <th className="py-1 text-left font-normal text-ink-2">Made of</th>
              {known.map((one) => (
                <td key={one.id} className="py-1 pl-4">
                  {one.account ? (
                    <>
                      revision {item.revisions.find(({ id }) => id === one.parent)?.number}.{" "}
                      {movedBy(one.account)}
                    </>
                  ) : (
                    "the file received"
                  )}
                </td>
              ))}
            </tr>
          )}
        </tbody>
      </table>
      {known.length < lines.length && <p className="mt-2 text-ink-2">Fetching the reports…</p>}
    </Dialog>
  );
}

export const calledOf = (one: RevisionLine) => `${one.number} ${one.name || one.title}`;
