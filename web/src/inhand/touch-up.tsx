import { useState } from "react";
import type { Operation } from "../api/client";
import { Button } from "../ui/button";
import { NumberFields, useNumbers } from "../ui/numbers";
import { type Choice, runsOf } from "../viewer/choice";

type Props = {
  operations: readonly Operation[];
  faces: Choice;
  /** Null when nothing can be run now. */
  onRun: ((operation: Operation, given: Record<string, unknown>) => void) | null;
  /** Whether any face is chosen. */
  some: boolean;
};

/** What can be done with the chosen faces; those that need numbers open to be filled in. */
export function TouchUp({ operations, faces, onRun, some }: Props) {
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
      {open && some && <Form key={open.name} operation={open} faces={faces} onRun={onRun} />}
    </>
  );
}

/** On a region these are called so; here it is clear what they are done to. */
const SHORT: Record<string, string> = {
  refine: "Refine",
  smooth: "Smooth",
  "even-out": "Even out",
};

function Form({
  operation,
  faces,
  onRun,
}: Omit<Props, "operations" | "some"> & { operation: Operation }) {
  const numbers = useNumbers(operation);
  const [chosen, setChosen] = useState<Record<string, unknown>>({});
  const ofFaces = operation.parameters.find((one) => one.kind === "faces")!;
  const more = operation.parameters.filter((one) => one.kind === "choice" || one.kind === "switch");
  const can = onRun !== null && numbers.complete;
  return (
    <form
      className="mt-2 flex flex-wrap items-center gap-x-4 gap-y-2"
      onSubmit={(event) => {
        event.preventDefault();
        if (can) onRun(operation, { ...numbers.values, ...chosen, [ofFaces.name]: runsOf(faces) });
      }}
    >
      <p className="w-full text-ink-2">{operation.about}</p>
      <NumberFields numbers={numbers} beside />
      {more.map((one) =>
        one.kind === "switch" ? (
          <label key={one.name} className="flex items-center gap-1.5" title={one.about}>
            <input
              type="checkbox"
              checked={(chosen[one.name] ?? one.default) === true}
              onChange={(event) => setChosen({ ...chosen, [one.name]: event.target.checked })}
            />
            {one.title}
          </label>
        ) : (
          <label key={one.name} className="flex items-center gap-1.5" title={one.about}>
            <span className="text-ink-2">{one.title}</span>
            <select
              className="rounded border border-slate bg-sheet px-2 py-1"
              value={String(chosen[one.name] ?? one.default)}
              onChange={(event) => setChosen({ ...chosen, [one.name]: event.target.value })}
            >
              {one.choices.map((choice) => (
                <option key={choice}>{choice}</option>
              ))}
            </select>
          </label>
        ),
      )}
      <Button type="submit" look="primary" className="!py-1" disabled={!can}>
        {SHORT[operation.name] ?? operation.title}
      </Button>
    </form>
  );
}
