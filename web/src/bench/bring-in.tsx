import { useState } from "react";
import type { Item } from "../api/client";
import { Button } from "../ui/button";
import { Dialog } from "../ui/dialog";
import { count, plural } from "../ui/format";
import { MOST, useVariants } from "./use-variants";

/** What can be done with other models, in the order in which it is offered. */
const WAYS = [
  { operation: "join-files", says: "Bring in as pieces", about: "They stay as they are." },
  { operation: "unite", says: "Unite with them", about: "One skin round all that meet." },
  { operation: "subtract", says: "Take them off", about: "What they fill is cut away." },
  { operation: "intersect", says: "Keep what they share", about: "All else goes." },
] as const;

type Props = {
  item: Pick<Item, "id" | "order">;
  /** Null when nothing can be run now. */
  onRun: ((operation: string, others: readonly number[]) => void) | null;
};

/** Other models of the order, brought in at their own places. */
export function BringIn({ item, onRun }: Props) {
  const [open, setOpen] = useState(false);
  return (
    <div className="shrink-0 border-t border-rule px-3.5 py-2">
      <Button look="quiet" className="!p-0" disabled={!onRun} onClick={() => setOpen(true)}>
        Bring other models in…
      </Button>
      {open && onRun && <Choose item={item} onRun={onRun} onClose={() => setOpen(false)} />}
    </div>
  );
}

function Choose(props: {
  item: Props["item"];
  onRun: NonNullable<Props["onRun"]>;
  onClose: () => void;
}) {
  const { item, onRun, onClose } = props;
  const variants = useVariants(item);
  const [taken, setTaken] = useState<ReadonlySet<number>>(new Set());
  const take = (revision: number) => {
    const next = new Set(taken);
    if (!next.delete(revision)) next.add(revision);
    setTaken(next);
  };
  return (
    <Dialog
      open
      onOpenChange={(next) => !next && onClose()}
      title="Other models of the order"
      about="They come in where their own files have them, as they hold now; their items stay as they are."
      wide
    >
      {variants.length === 0 ? (
        <p>There is no other model in order {item.order.number} yet.</p>
      ) : (
        <>
          {variants.length > 1 && (
            <label className="flex items-center gap-3 px-1 py-1.5 font-[650]">
              <input
                type="checkbox"
                checked={taken.size === variants.length}
                onChange={(event) =>
                  setTaken(new Set(event.target.checked ? variants.map((one) => one.current!) : []))
                }
              />
              All {plural(variants.length, "model")}
            </label>
          )}
          <ul aria-label="Models" className="max-h-[40vh] overflow-auto border-y border-rule">
            {variants.map((one) => (
              <li key={one.id} className="border-b border-rule last:border-0">
                <label className="flex items-center gap-3 px-1 py-1.5 hover:bg-paper-2">
                  <input
                    type="checkbox"
                    checked={taken.has(one.current!)}
                    onChange={() => take(one.current!)}
                  />
                  <span className="min-w-0 flex-1 truncate">{one.name}</span>
                  <span className="text-ink-2">
                    {one.triangles !== null && `${count(one.triangles)} triangles`}
                  </span>
                </label>
              </li>
            ))}
          </ul>
          <div className="mt-4 grid grid-cols-2 gap-2">
            {WAYS.map(({ operation, says, about }, i) => (
              <Button
                key={operation}
                look={i === 0 ? "primary" : "plain"}
                disabled={!taken.size}
                onClick={() => {
                  onRun(operation, [...taken]);
                  onClose();
                }}
              >
                <b className="block font-[650]">{says}</b>
                <span className="font-normal">{about}</span>
              </Button>
            ))}
          </div>
          <p className="mt-2 text-ink-2" role="status">
            {taken.size ? `${plural(taken.size, "model")} taken.` : "Take one or more."}
            {variants.length + 1 >= MOST && ` Of this order the first ${MOST} are offered.`}
          </p>
        </>
      )}
    </Dialog>
  );
}
