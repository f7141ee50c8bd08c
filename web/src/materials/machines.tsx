import { useState } from "react";
import type { Machine } from "../api/client";
import { Button } from "../ui/button";
import { inputLook } from "../ui/field";

type Props = {
  machines: Machine[];
  processes: string[];
  /** Null for those who may only look. */
  onAdd: ((machine: Omit<Machine, "id">) => void) | null;
  onDrop: (id: number) => void;
};

/** The shop's machines with their build volumes. */
export function Machines({ machines, processes, onAdd, onDrop }: Props) {
  const [adding, setAdding] = useState(false);
  return (
    <section aria-label="Machines" className="border-t border-rule py-3">
      <h2 className="px-4 pb-1 font-semibold text-ink-2">Machines</h2>
      <ul>
        {machines.map((one) => (
          <li key={one.id} className="group px-4 py-1">
            <span className="flex justify-between gap-2">
              <b className="font-[650]">{one.name}</b>
              {onAdd && (
                <button
                  type="button"
                  aria-label={`Take ${one.name} off the list`}
                  className="text-ink-2 hover:text-rust"
                  onClick={() => onDrop(one.id)}
                >
                  ✕
                </button>
              )}
            </span>
            <span className="block text-small text-ink-2">
              {one.process}, {one.x} × {one.y} × {one.z} mm
            </span>
          </li>
        ))}
        {!machines.length && <li className="px-4 text-ink-2">None yet.</li>}
      </ul>
      {onAdd &&
        (adding ? (
          <NewMachine
            processes={processes}
            onAdd={(machine) => {
              onAdd(machine);
              setAdding(false);
            }}
            onClose={() => setAdding(false)}
          />
        ) : (
          <Button look="quiet" className="mx-4 mt-1" onClick={() => setAdding(true)}>
            Add a machine
          </Button>
        ))}
    </section>
  );
}

function NewMachine(props: {
  processes: string[];
  onAdd: (machine: Omit<Machine, "id">) => void;
  onClose: () => void;
}) {
  const [name, setName] = useState("");
  const [process, setProcess] = useState(props.processes[0] ?? "");
  const [sides, setSides] = useState(["", "", ""]);
  return (
    <form
      className="space-y-2 px-4 pt-2"
      onSubmit={(event) => {
        event.preventDefault();
        const [x, y, z] = sides.map(Number) as [number, number, number];
        props.onAdd({ name: name.trim(), process, x, y, z });
      }}
    >
      <input
        aria-label="Name of the machine"
        placeholder="Name"
        required
        maxLength={80}
        className={inputLook}
        value={name}
        onChange={(event) => setName(event.target.value)}
      />
      <select
        aria-label="Process"
        className={inputLook}
        value={process}
        onChange={(event) => setProcess(event.target.value)}
      >
        {props.processes.map((one) => (
          <option key={one}>{one}</option>
        ))}
      </select>
      <div className="grid grid-cols-3 gap-1">
        {["x", "y", "z"].map((side, i) => (
          <input
            key={side}
            aria-label={`Build volume, ${side}, mm`}
            placeholder={`${side} mm`}
            type="number"
            required
            min={1}
            max={10000}
            className={inputLook}
            value={sides[i]}
            onChange={(event) => setSides(sides.with(i, event.target.value))}
          />
        ))}
      </div>
      <div className="flex justify-between">
        <Button look="quiet" onClick={props.onClose}>
          Cancel
        </Button>
        <Button type="submit">Add</Button>
      </div>
    </form>
  );
}
