import { useMemo } from "react";
import type { Material } from "../api/client";
import { useMachines } from "../materials/queries";

/** A machine and the room in it, mm. */
export type MachineRoom = { name: string; sides: readonly [number, number, number] };

/** The largest machine that makes a material. */
export function useMachineFor(material: Material | undefined): MachineRoom | null {
  const machines = useMachines().data;
  return useMemo(() => {
    const able = machines?.filter((one) => one.process === material?.rules?.process) ?? [];
    const [largest] = [...able].sort((a, b) => b.x * b.y * b.z - a.x * a.y * a.z);
    return largest ? { name: largest.name, sides: [largest.x, largest.y, largest.z] } : null;
  }, [machines, material]);
}
