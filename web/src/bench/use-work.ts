import { useEffect, useRef } from "react";
import type {
  Decision,
  Item,
  Material,
  Operation,
  ReleaseFormat,
  RevisionLine,
} from "../api/client";
import { isOpen, useItemActions, useMaterials, useOperations } from "../api/queries";
import { useWorkingPerson } from "../session/person";
import type { EarlierState } from "../ui/operation-fields";
import { earlierStates } from "./earlier";
import type { OnRun } from "./remedy";
import { useBench } from "./store";
import type { Letter } from "./use-letter";
import type { Shown } from "./use-shown";

/** What can be done to an item now, and what went wrong with the last thing that was tried. */
export type Work = {
  actions: ReturnType<typeof useItemActions>;
  operations: Operation[];
  /** States of the item beside the one shown, the likeliest to be asked for first. */
  earlier: EarlierState[];
  /** The material ordered, once it is known. */
  ordered: Material | undefined;
  busy: boolean;
  /** Whether one may, the revision shown is the one that holds, and nothing is going on. */
  canWork: boolean;
  /** Whether one may keep something with a revision, whichever is shown. */
  mayKeep: boolean;
  mend: () => void;
  run: OnRun;
  /** Accept some places of a kind, or all that are listed. */
  accept: (
    kind: string,
    places: number[] | null,
    listed: number,
    reason: string,
  ) => Promise<unknown>;
  /** Take an acceptance back, for one place or all. */
  withdraw: (decision: number, places: number[] | null, reason: string) => Promise<unknown>;
  /** Let a piece stay apart, or be united again. */
  setApart: (piece: number, apart: boolean, reason: string) => Promise<unknown>;
  take: (material: string, reason: string) => Promise<unknown>;
  judge: () => void;
  release: (format: ReleaseFormat, letter: Letter) => Promise<unknown>;
  /** Make the revision shown the one that holds. */
  workFromHere: () => void;
  /** Make any revision the one that holds, and look at it. */
  goTo: (revision: RevisionLine) => void;
  problem: string | undefined;
};

const NO_OPERATIONS: Operation[] = [];

/** The acceptance that lets a piece stay apart, and which of its places that is. */
export function apartBy(decisions: readonly Decision[], piece: number) {
  for (const one of decisions) {
    const index = one.places.findIndex((place) => place.piece === piece);
    if (one.act === "accept" && one.kind === "stays-apart" && one.holds.includes(index)) {
      return { decision: one, index };
    }
  }
  return null;
}

export function useWork(item: Item, shown: Shown): Work {
  const actions = useItemActions(item.id);
  const operations = useOperations().data ?? NO_OPERATIONS;
  const ordered = useMaterials().data?.find((one) => one.id === item.material);
  const viewing = useBench((bench) => bench.viewing);
  const busy = isOpen(item.job);
  const mayChange = useWorkingPerson()?.may_change ?? true;
  useForget(actions, busy);
  const seen = { revision: shown.id ?? 0 };
  const run: OnRun = (operation, places, chosen = {}) => {
    actions.operate.mutate({
      ...seen,
      operation: operation.name,
      parameters: { ...chosen, ...(places ? { places } : {}) },
    });
  };
  const goTo = ({ id, number }: RevisionLine) => {
    if (!mayChange || busy || item.current === null) return;
    const { view, follow } = useBench.getState();
    actions.returnTo.mutate(
      { revision: item.current, to: number },
      {
        onSuccess: () => {
          follow(id);
          view(null);
        },
      },
    );
  };
  const workFromHere = () => {
    if (viewing !== null && shown.line) goTo(shown.line);
  };
  const setApart = (piece: number, apart: boolean, reason: string) => {
    if (apart) return actions.apart.mutateAsync({ ...seen, pieces: [piece], reason });
    const by = apartBy(item.decisions, piece);
    if (!by) return Promise.resolve();
    const { decision, index } = by;
    return actions.withdraw.mutateAsync({ decision: decision.id, places: [index], reason });
  };
  return {
    actions,
    operations,
    earlier: earlierStates(item.revisions, shown.id),
    ordered,
    busy,
    mayKeep: mayChange,
    canWork: mayChange && !busy && viewing === null && item.current !== null && !shown.movedOn,
    mend: () => actions.mend.mutate(seen),
    run,
    accept: (kind, places, listed, reason) =>
      actions.accept.mutateAsync({
        ...seen,
        examination: shown.revision?.examination ?? 0,
        kind,
        places,
        listed,
        reason,
      }),
    withdraw: (decision, places, reason) =>
      actions.withdraw.mutateAsync({ decision, places, reason }),
    setApart,
    take: (material, reason) => actions.material.mutateAsync({ ...seen, material, reason }),
    judge: () => actions.judge.mutate(seen),
    release: (format, { text, proposal }) =>
      actions.release.mutateAsync({
        ...seen,
        format,
        letter: text,
        rests_on: proposal.rests_on,
      }),
    workFromHere,
    goTo,
    problem: Object.values(actions).find((one) => one.isError)?.error.message,
  };
}

/** What was refused because of work going on is told no longer than that goes on. */
function useForget(actions: ReturnType<typeof useItemActions>, busy: boolean): void {
  const was = useRef(busy);
  useEffect(() => {
    if (was.current && !busy) for (const one of Object.values(actions)) one.reset();
    was.current = busy;
  });
}
