import { useState } from "react";
import type { Operation } from "../api/client";
import { Button } from "../ui/button";
import { type EarlierState, useGiven } from "../ui/operation-fields";
import { type Choice, runsOf } from "../viewer/choice";

type Props = {
  operations: readonly Operation[];
  /** Other states of the item, for what is brought back from one. */
  earlier: readonly EarlierState[];
  faces: Choice;
  /** Null when nothing can be run now. */
  onRun: ((operation: Operation, given: Record<string, unknown>) => void) | null;
  /** Whether any face is chosen. */
  some: boolean;
};

/** What can be done with the chosen faces; those that need numbers open to be filled in. */
export function TouchUp({ operations, earlier, faces, onRun, some }: Props) {
  const able = operations.filter((one) => one.parameters.some((p) => p.kind === "faces"));
  const [name, setName] = useState<string | null>(null);
  const open = able.find((one) => one.name === name);
  return (
    <>
      <div role="group" aria-label="What to do with them" className="flex flex-wrap gap-1.5">
        {able.map((one) => (
          <Button
            key={one.name}
            aria-expanded={one === open}
            disabled={!some}
            title={one.about}
            className={`!px-2 !py-0.5 ${one === open ? "border-b-3 border-b-blue" : ""}`}
            onClick={() => setName(one === open ? null : one.name)}
          >
            {SHORT[one.name] ?? one.title}
          </Button>
        ))}
      </div>
      {open && some && (
        <Form key={open.name} operation={open} earlier={earlier} faces={faces} onRun={onRun} />
      )}
    </>
  );
}

/** On a region these are called so; here it is clear what they are done to. */
const SHORT: Record<string, string> = {
  refine: "Refine",
  smooth: "Smooth",
  "even-out": "Even out",
  "restore-detail": "Detail back",
};

function Form({
  operation,
  earlier,
  faces,
  onRun,
}: Omit<Props, "operations" | "some"> & { operation: Operation }) {
  const given = useGiven(operation, { earlier });
  const ofFaces = operation.parameters.find((one) => one.kind === "faces")!;
  const can = onRun !== null && given.complete;
  return (
    <form
      className="mt-2 flex flex-wrap items-center gap-x-4 gap-y-2"
      onSubmit={(event) => {
        event.preventDefault();
        if (can) onRun(operation, { ...given.values, [ofFaces.name]: runsOf(faces) });
      }}
    >
      <p className="w-full text-ink-2">{operation.about}</p>
      {given.fields}
      <Button type="submit" look="primary" className="!py-1" disabled={!can}>
        {SHORT[operation.name] ?? operation.title}
      </Button>
    </form>
  );
}
