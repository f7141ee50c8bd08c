import { useEffect } from "react";
import type { Item, Material, Operation } from "../api/client";
import { isOpen, useItemActions, useMaterials, useOperations } from "../api/queries";
import type { OnRun } from "./remedy";
import { useBench } from "./store";
import type { Shown } from "./use-shown";

/** What can be done to an item now, and what went wrong with the last thing that was tried. */
export type Work = {
  actions: ReturnType<typeof useItemActions>;
  operations: Operation[];
  /** The material ordered, once it is known. */
  ordered: Material | undefined;
  busy: boolean;
  /** Whether the revision shown is the one that holds, and nothing is going on. */
  canWork: boolean;
  mend: () => void;
  run: OnRun;
  /** Make the revision shown the one that holds. */
  workFromHere: () => void;
  problem: string | undefined;
};

const NO_OPERATIONS: Operation[] = [];

export function useWork(item: Item, shown: Shown): Work {
  const actions = useItemActions(item.id);
  const operations = useOperations().data ?? NO_OPERATIONS;
  const ordered = useMaterials().data?.find((one) => one.id === item.material);
  const viewing = useBench((bench) => bench.viewing);
  const kept = useBench((bench) => bench.apart);
  const busy = isOpen(item.job);
  // numbers of pieces are those of one revision
  useEffect(() => useBench.getState().joinAll(), [shown.id]);
  const apart = [...kept].map((shell) => shell + 1);
  const run: OnRun = (operation, places, chosen = {}) => {
    const takes = operation.parameters.some((one) => one.name === "apart");
    actions.operate.mutate({
      operation: operation.name,
      parameters: {
        ...chosen,
        ...(places ? { places } : takes && apart.length ? { apart } : {}),
      },
    });
  };
  const workFromHere = () => {
    const number = shown.line?.number;
    if (viewing === null || number === undefined || busy) return;
    const { view } = useBench.getState();
    actions.returnTo.mutate(number, { onSuccess: () => view(null) });
  };
  return {
    actions,
    operations,
    ordered,
    busy,
    canWork: !busy && viewing === null && item.current !== null,
    mend: () => actions.mend.mutate(apart),
    run,
    workFromHere,
    problem: Object.values(actions).find((one) => one.isError)?.error.message,
  };
}
