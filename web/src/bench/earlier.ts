import type { RevisionLine } from "../api/client";
import type { EarlierState } from "../ui/operation-fields";
import { calledOf } from "./figures";

/** Other states of an item, the one that detail was last lost from first. */
export function earlierStates(
  revisions: readonly RevisionLine[],
  shown: number | null | undefined,
): EarlierState[] {
  const others = revisions.filter((one) => one.id !== shown).reverse();
  const first = lastRecast(revisions, shown);
  const likely = others.find((one) => one.id === first);
  const sorted = likely ? [likely, ...others.filter((one) => one !== likely)] : others;
  return sorted.map((one) => ({ id: one.id, called: calledOf(one) }));
}

/** The revision that was last recast on the way to the one shown; else the one it was made of. */
function lastRecast(revisions: readonly RevisionLine[], shown: number | null | undefined) {
  const byId = new Map(revisions.map((one) => [one.id, one]));
  const own = byId.get(shown ?? 0);
  for (let one = own; one?.parent != null; one = byId.get(one.parent)) {
    if (one.operation.startsWith("recast")) return one.parent;
  }
  return own?.parent ?? null;
}
