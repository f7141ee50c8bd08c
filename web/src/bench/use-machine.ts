import { useMemo } from "react";
import type { Item } from "../api/client";
import { useMaterials } from "../api/queries";
import { useMachines } from "../materials/queries";

/** A machine and the room in it, mm. */
export type MachineRoom = { name: string; sides: readonly [number, number, number] };

/** The largest machine that makes the material of an item. */
export function useMachineFor(item: Item): MachineRoom | null {
  const machines = useMachines().data;
  const material = useMaterials().data?.find((one) => one.id === item.material);
  return useMemo(() => {
    const able = machines?.filter((one) => one.process === material?.rules?.process) ?? [];
    const [largest] = [...able].sort((a, b) => b.x * b.y * b.z - a.x * a.y * a.z);
    return largest ? { name: largest.name, sides: [largest.x, largest.y, largest.z] } : null;
  }, [machines, material]);
}
