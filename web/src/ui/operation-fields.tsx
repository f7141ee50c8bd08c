import { type ReactNode, useState } from "react";
import type { Operation } from "../api/client";
import { inputLook } from "./field";
import { NumberFields, useNumbers } from "./numbers";

type Parameter = Operation["parameters"][number];

/** What was given for an operation's numbers, directions, choices and switches. */
export type Given = {
  /** By parameter; those that are not given have their usual value. */
  values: Record<string, unknown>;
  complete: boolean;
  /** To fill in. */
  fields: ReactNode;
};

/** A state of the model beside the one that is worked on. */
export type EarlierState = { id: number; called: string };

type Options = {
  /** States that something can be brought back from, the likeliest first. */
  earlier?: readonly EarlierState[];
  /** Parameters that are not asked for here. */
  without?: readonly string[];
  /** What is in the fields to begin with, by parameter. */
  usual?: Readonly<Record<string, number | boolean | string>>;
};

/** Fields for all that a person types or chooses about an operation. */
export function useGiven(operation: Operation, options: Options = {}): Given {
  const { earlier = [], without = [], usual = {} } = options;
  const asked = operation.parameters
    .filter((one) => !without.includes(one.name))
    .map((one) => (one.name in usual ? { ...one, default: usual[one.name] } : one));
  const numbers = useNumbers({ ...operation, parameters: asked });
  const state = useEarlier(operation, earlier);
  const [chosen, setChosen] = useState<Record<string, unknown>>({});
  const [typed, setTyped] = useState<Record<string, readonly string[]>>({});
  const take = (name: string, value: unknown) => setChosen({ ...chosen, [name]: value });
  const vectors = asked.filter((one) => one.kind === "vector");
  const given: Record<string, unknown> = { ...numbers.values };
  for (const one of asked) {
    if (one.kind === "choice" || one.kind === "switch") {
      const value = chosen[one.name] ?? (one.name in usual ? usual[one.name] : undefined);
      if (value !== undefined) given[one.name] = value;
    }
  }
  let complete = numbers.complete;
  for (const one of vectors) {
    const value = vectorOf(one, typed[one.name]);
    if (value) given[one.name] = value;
    else if (one.needed || typed[one.name]?.some(Boolean)) complete = false;
  }
  Object.assign(given, state.values);
  complete &&= state.complete;
  const fields = (
    <>
      {state.fields}
      {vectors.map((one) => (
        <VectorField
          key={one.name}
          parameter={one}
          typed={typed[one.name] ?? usualVector(one)}
          onType={(texts) => setTyped({ ...typed, [one.name]: texts })}
        />
      ))}
      <NumberFields numbers={numbers} beside />
      {asked.map((one) =>
        one.kind === "switch" ? (
          <label key={one.name} className="flex items-center gap-1.5" title={one.about}>
            <input
              type="checkbox"
              checked={(chosen[one.name] ?? one.default) === true}
              onChange={(event) => take(one.name, event.target.checked)}
            />
            {one.title}
          </label>
        ) : one.kind === "choice" ? (
          <label key={one.name} className="flex items-center gap-1.5" title={one.about}>
            <span className="text-ink-2">{one.title}</span>
            <select
              className="rounded border border-slate bg-sheet px-2 py-1"
              value={String(chosen[one.name] ?? one.default)}
              onChange={(event) => take(one.name, event.target.value)}
            >
              {one.choices.map((choice) => (
                <option key={choice}>{choice}</option>
              ))}
            </select>
          </label>
        ) : null,
      )}
    </>
  );
  return { values: given, complete, fields };
}

/** Which state of the model something is brought back from, where an operation asks for one. */
export function useEarlier(operation: Operation, states: readonly EarlierState[]): Given {
  const [picked, setPicked] = useState<number | null>(null);
  const chosen = picked ?? states[0]?.id;
  const asked = operation.parameters.find((one) => one.kind === "meshes" && one.needed);
  if (!asked) return { values: {}, complete: true, fields: null };
  if (chosen === undefined) {
    const fields = <p className="text-ink-2">There is no other state of it yet.</p>;
    return { values: {}, complete: false, fields };
  }
  const fields = (
    <label className="flex min-w-0 items-center gap-1.5">
      <span className="shrink-0 text-ink-2">{asked.title}</span>
      <select
        className="min-w-0 flex-1 truncate rounded border border-slate bg-sheet px-2 py-1"
        value={chosen}
        onChange={(event) => setPicked(Number(event.target.value))}
      >
        {states.map((one) => (
          <option key={one.id} value={one.id}>
            {one.called}
          </option>
        ))}
      </select>
    </label>
  );
  return { values: { [asked.name]: [chosen] }, complete: true, fields };
}

const AXES = ["x", "y", "z"] as const;

const usualVector = (one: Parameter): readonly string[] =>
  Array.isArray(one.default) ? one.default.map(String) : ["", "", ""];

/** What was typed for a direction or step; what is left empty beside something is none of it. */
function vectorOf(one: Parameter, typed: readonly string[] | undefined): number[] | null {
  const texts = typed ?? usualVector(one);
  if (!texts.some((text) => text.trim())) return null;
  const values = texts.map((text) => Number(text || 0));
  return values.every((value) => Number.isFinite(value)) ? values : null;
}

function VectorField(props: {
  parameter: Parameter;
  typed: readonly string[];
  onType: (texts: readonly string[]) => void;
}) {
  const { parameter, typed, onType } = props;
  return (
    <fieldset className="flex items-center gap-1.5" title={parameter.about}>
      <legend className="float-left mr-1 text-ink-2">{parameter.title}</legend>
      {AXES.map((axis, i) => (
        <label key={axis} className="flex items-center gap-1">
          {axis}
          <input
            type="number"
            step="any"
            aria-label={`${parameter.title}, ${axis}`}
            className={`${inputLook} !w-20 !px-1.5 !py-1`}
            placeholder="0"
            value={typed[i]}
            onChange={(event) =>
              onType(typed.map((text, k) => (k === i ? event.target.value : text)))
            }
          />
        </label>
      ))}
    </fieldset>
  );
}
