import { useState } from "react";
import type { Operation } from "../api/client";
import { inputLook } from "./field";

type Parameter = Operation["parameters"][number];

/** What was typed for the numbers of an operation, and whether it can be taken. */
export type Numbers = {
  numbers: Parameter[];
  typed: Record<string, string>;
  type: (name: string, text: string) => void;
  /** Those that are given or have a usual value. */
  values: Record<string, number>;
  wrong: Parameter[];
  /** Whether all that has to be given is, and nothing is wrong. */
  complete: boolean;
};

export function useNumbers(operation: Operation): Numbers {
  const [typed, setTyped] = useState<Record<string, string>>({});
  const numbers = operation.parameters.filter((p) => p.kind === "number");
  const values: Record<string, number> = {};
  const wrong: Parameter[] = [];
  const missing: Parameter[] = [];
  for (const one of numbers) {
    const text = typed[one.name] ?? usual(one.default);
    if (text === "") {
      if (one.needed) missing.push(one);
      continue;
    }
    const value = Number(text);
    values[one.name] = value;
    if (!(value >= one.least && value <= one.most)) wrong.push(one);
  }
  return {
    numbers,
    typed,
    type: (name, text) => setTyped((before) => ({ ...before, [name]: text })),
    values,
    wrong,
    complete: !wrong.length && !missing.length,
  };
}

const usual = (value: unknown) => (typeof value === "number" ? String(value) : "");

/** The numbers of an operation to fill in, each with its unit. */
export function NumberFields({
  numbers: given,
  wide,
  beside,
}: {
  numbers: Numbers;
  wide?: boolean;
  /** One beside the other instead of one under the other. */
  beside?: boolean;
}) {
  const { numbers, typed, type, wrong } = given;
  if (!numbers.length) return null;
  return (
    <div
      className={
        beside
          ? "flex flex-wrap items-center gap-x-2"
          : `grid items-center gap-x-2 gap-y-1 ${
              wide ? "grid-cols-[1fr_112px_32px]" : "grid-cols-[auto_72px_1fr]"
            }`
      }
    >
      {numbers.map((one) => (
        <label key={one.name} className="contents" title={one.about}>
          <span className="text-ink-2">{one.title}</span>
          <span className={beside ? "w-20" : ""}>
            <input
              type="number"
              step="any"
              min={one.least}
              max={one.most}
              className={`${inputLook} ${beside ? "!px-1.5 !py-1" : ""}`}
              placeholder={one.empty || (one.needed ? "" : "usual")}
              value={typed[one.name] ?? usual(one.default)}
              onChange={(event) => type(one.name, event.target.value)}
            />
          </span>
          <span>{one.unit}</span>
        </label>
      ))}
      {wrong.length > 0 && (
        <p role="alert" className="col-span-3 text-rust">
          {wrong.map((p) => `${p.title}: ${p.least} to ${p.most} ${p.unit}`).join("; ")}.
        </p>
      )}
    </div>
  );
}
