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

type Options = {
  /** Parameters that are not asked for here. */
  without?: readonly string[];
  /** What is in the fields to begin with, by parameter. */
  usual?: Readonly<Record<string, number | boolean | string>>;
};

/** Fields for all that a person types or chooses about an operation. */
export function useGiven(operation: Operation, options: Options = {}): Given {
  const { without = [], usual = {} } = options;
  const asked = operation.parameters
    .filter((one) => !without.includes(one.name))
    .map((one) => (one.name in usual ? { ...one, default: usual[one.name] } : one));
  const numbers = useNumbers({ ...operation, parameters: asked });
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
  const fields = (
    <>
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
