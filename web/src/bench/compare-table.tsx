import { useQueries } from "@tanstack/react-query";
import { useState } from "react";
import type { Item, RevisionLine } from "../api/client";
import { revisionQuery, useMaterials } from "../api/queries";
import { Button } from "../ui/button";
import { Dialog } from "../ui/dialog";
import { Comparing } from "./comparing";
import { calledOf, type Column, linesFor } from "./figures";
import { boxRound, movedBy, takenOut } from "./moved";
import { useBench } from "./store";
import { useComparison } from "./use-comparison";
import { useVariants } from "./use-variants";

const MOST = 4;

/** A revision that can stand in the table: of this item, or what holds of another one. */
type Candidate = {
  id: number;
  called: string;
  item: number;
  material: number;
  quantity: number;
  line: RevisionLine | undefined;
};

/** Revisions of an item, then what holds of the other items of its order. */
function useCandidates(item: Item): { own: Candidate[]; variants: Candidate[] } {
  const others = useVariants(item);
  const ours = { item: item.id, material: item.material, quantity: item.quantity };
  return {
    own: item.revisions.map((line) => ({ ...ours, id: line.id, called: calledOf(line), line })),
    variants: others.map((one) => ({
      id: one.current!,
      called: one.name,
      item: one.id,
      material: one.material,
      quantity: one.quantity,
      line: undefined,
    })),
  };
}

type Props = {
  item: Item;
  /** Those that are looked at, to begin with. */
  first: readonly number[];
  onClose: () => void;
};

/** Up to four revisions, or variants of the order, in numbers; what differs from the first stands out. */
export function CompareTable({ item, first, onClose }: Props) {
  const [chosen, setChosen] = useState<readonly number[]>(() => [...new Set(first)].slice(0, MOST));
  const { own, variants } = useCandidates(item);
  const materials = useMaterials().data ?? [];
  const every = [...own, ...variants];
  const picked = chosen.flatMap((id) => every.find((one) => one.id === id) ?? []);
  const found = useQueries({
    queries: picked.map(({ id, line }) => ({
      ...revisionQuery(id, line?.examination),
      // of other items the last examination is asked for, which may be another one tomorrow
      ...(line ? {} : { staleTime: 0 }),
    })),
  });
  const columns = picked.flatMap(({ material, quantity }, i): Column[] => {
    const revision = found[i]?.data;
    const key = materials.find((one) => one.id === material)?.key ?? "";
    return revision ? [{ revision, material: key, quantity }] : [];
  });
  const all = columns.length === picked.length;
  const problem = found.find((one) => one.isError)?.error;
  const free = (list: Candidate[]) => list.filter((one) => !chosen.includes(one.id));
  const groups = (mine?: Candidate) => (
    <>
      {(
        [
          ["This item", own],
          ["What holds of others of the order", variants],
        ] as const
      ).map(([title, list]) => {
        const shown = list.filter((one) => one === mine || !chosen.includes(one.id));
        return (
          shown.length > 0 && (
            <optgroup key={title} label={title}>
              {shown.map((one) => (
                <option key={one.id} value={one.id}>
                  {one.called}
                </option>
              ))}
            </optgroup>
          )
        );
      })}
    </>
  );
  return (
    <Dialog open onOpenChange={(open) => !open && onClose()} title="In numbers" widest>
      <table aria-label="Revisions in numbers" className="w-full table-fixed">
        <thead>
          <tr>
            <th className="w-[176px]" />
            {picked.map((one, i) => (
              <th key={one.id} className="pb-2 pl-4 text-left font-normal">
                <div className="flex gap-1">
                  <select
                    aria-label={`Revision in column ${i + 1}`}
                    className="w-full min-w-0 rounded border border-slate bg-sheet px-2 py-1"
                    value={one.id}
                    onChange={(event) =>
                      setChosen(chosen.map((id, j) => (j === i ? Number(event.target.value) : id)))
                    }
                  >
                    {groups(one)}
                  </select>
                  {picked.length > 1 && (
                    <Button
                      look="quiet"
                      aria-label={`Leave out column ${i + 1}`}
                      className="!px-1.5"
                      onClick={() => setChosen(chosen.filter((id) => id !== one.id))}
                    >
                      ×
                    </Button>
                  )}
                </div>
              </th>
            ))}
            {chosen.length < MOST && free(every).length > 0 && (
              <th className="pb-2 pl-4 text-left font-normal">
                <select
                  aria-label="One more"
                  className="w-full rounded border border-rule bg-paper px-2 py-1"
                  value=""
                  onChange={(event) => setChosen([...chosen, Number(event.target.value)])}
                >
                  <option value="">One more…</option>
                  {groups()}
                </select>
              </th>
            )}
          </tr>
        </thead>
        <tbody>
          {all &&
            linesFor(columns).map(({ title, of }) => (
              <tr key={title} className="border-t border-rule">
                <th className="whitespace-nowrap py-1 text-left font-normal text-ink-2">{title}</th>
                {columns.map((one, i) => (
                  <td
                    key={one.revision.id}
                    className={`py-1 pl-4 ${i > 0 && of(one) !== of(columns[0]!) ? "font-[650]" : ""}`}
                  >
                    {of(one) || "—"}
                  </td>
                ))}
              </tr>
            ))}
          {all && picked.length > 1 && (
            <tr className="border-t border-rule align-top">
              <th className="py-1 text-left font-normal text-ink-2">Against the first</th>
              <td className="py-1 pl-4">—</td>
              {picked.slice(1).map((one) => (
                <td key={one.id} className="py-1 pl-4">
                  <Apart of={one} against={picked[0]!} here={item.id} onClose={onClose} />
                </td>
              ))}
            </tr>
          )}
        </tbody>
      </table>
      {problem ? (
        <p role="alert" className="mt-2 text-rust">
          {problem.message}
        </p>
      ) : (
        !all && <p className="mt-2 text-ink-2">Fetching the reports…</p>
      )}
    </Dialog>
  );
}

/** How far one is from the first, with a way to look at it. */
function Apart(props: { of: Candidate; against: Candidate; here: number; onClose: () => void }) {
  const { of, against, here, onClose } = props;
  const compared = useComparison(
    of.item,
    of.line ?? { ...of, parent: null, examination: 0 },
    against,
  );
  const { account } = compared;
  if (!account) return <Comparing compared={compared} />;
  const at = account.max_deviation_at;
  const look = () => {
    const { view, changedSince, goTo } = useBench.getState();
    view(of.id);
    changedSince(against.id);
    if (at) goTo(boxRound(at, Math.max(4, 3 * account.max_deviation_mm)), [0, 0, 0]);
    onClose();
  };
  return (
    <>
      {movedBy(account)} {takenOut(account)}{" "}
      {of.item === here && against.item === here && (
        <Button look="quiet" className="!p-0" onClick={look}>
          Show where
        </Button>
      )}
    </>
  );
}
