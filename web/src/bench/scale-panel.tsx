import { useState } from "react";
import type { Item, Report } from "../api/client";
import { Button } from "../ui/button";
import { inputLook } from "../ui/field";
import { sizeOf, volume } from "../ui/format";
import { lengthsIn } from "./lengths";
import type { MachineRoom } from "./use-machine";

type Way = "length" | "x" | "y" | "z" | "percent" | "factor";

const WAYS: readonly { way: Way; says: string; unit: string }[] = [
  { way: "length", says: "longest side", unit: "mm" },
  { way: "x", says: "along x", unit: "mm" },
  { way: "y", says: "along y", unit: "mm" },
  { way: "z", says: "along z", unit: "mm" },
  { way: "percent", says: "of its size", unit: "%" },
  { way: "factor", says: "times as large", unit: "" },
];

/** What each way of telling a size comes to: as the operation takes it, and as a factor. */
function given(way: Way, value: number, size: readonly number[]) {
  if (way === "factor") return { parameters: { factor: value }, factor: value };
  if (way === "percent") return { parameters: { percent: value }, factor: value / 100 };
  const side = way === "length" ? Math.max(...size) : size["xyz".indexOf(way)]!;
  const axis = way === "length" ? "longest" : way;
  return { parameters: { axis, length: value }, factor: value / side };
}

/** The greatest factor at which a part still fits a machine: a hair under, so that it does. */
export function factorThatFits(size: readonly number[], sides: readonly number[]): number {
  const [part, room] = [size, sides].map((one) => [...one].sort((a, b) => a - b));
  const least = Math.min(...part!.map((x, k) => room![k]! / x));
  return Math.floor(least * 10_000) / 10_000;
}

type Proposal = { says: string; factor: number; parameters: Record<string, unknown> };

/** Sizes that are proposed: what the customer wrote, what passes, what still fits. */
export function proposals(
  item: Pick<Item, "name"> & { note: string },
  report: Report,
  material: string,
  machine: MachineRoom | null,
): Proposal[] {
  const longest = Math.max(...report.size_mm);
  const told: Proposal[] = lengthsIn(`${item.name}. ${item.note}`).map(({ words, mm }) => ({
    says: `the customer writes “${words}”`,
    factor: mm / longest,
    parameters: { axis: "longest", length: mm },
  }));
  const verdict = report.verdicts.find((one) => one.key === material);
  if (verdict && !verdict.passes && verdict.scale !== null && verdict.scale !== 1) {
    told.push({
      says: `${verdict.name} passes`,
      factor: verdict.scale,
      parameters: { factor: verdict.scale },
    });
  }
  if (machine) {
    const factor = factorThatFits(report.size_mm, machine.sides);
    told.push({ says: `the largest for ${machine.name}`, factor, parameters: { factor } });
  }
  // what is so large already is nothing to propose
  return told.filter(({ factor }) => Math.abs(factor - 1) > 1e-4 && factor > 1e-4);
}

type Props = {
  item: Item;
  report: Report;
  /** Key of the material ordered. */
  material: string;
  machine: MachineRoom | null;
  /** Null when nothing can be run now. */
  onScale: ((parameters: Record<string, unknown>) => void) | null;
};

/** Another size: typed in one of several ways, or one that is proposed; each told beforehand. */
export function ScalePanel({ item, report, material, machine, onScale }: Props) {
  const [way, setWay] = useState<Way>("length");
  const [text, setText] = useState("");
  const value = Number(text.replace(",", "."));
  const typed = value > 0 ? given(way, value, report.size_mm) : null;
  const { unit } = WAYS.find((one) => one.way === way)!;
  const becomes = (factor: number) => sizeOf(report.size_mm.map((mm) => mm * factor));
  const offered = proposals({ name: item.name, note: item.order.note }, report, material, machine);
  return (
    <section aria-label="Another size" className="border-t border-rule p-4">
      <h3 className="mb-2 text-ink-2">Another size, all sides alike</h3>
      <form
        className="flex flex-wrap items-center gap-2"
        onSubmit={(event) => {
          event.preventDefault();
          if (typed) onScale?.(typed.parameters);
        }}
      >
        <input
          inputMode="decimal"
          aria-label="The size wanted"
          className={`${inputLook} !w-24`}
          value={text}
          onChange={(event) => setText(event.target.value)}
        />
        <span>{unit}</span>
        <select
          aria-label="Of what"
          className="rounded border border-slate bg-sheet px-2 py-1.5"
          value={way}
          onChange={(event) => setWay(event.target.value as Way)}
        >
          {WAYS.map((one) => (
            <option key={one.way} value={one.way}>
              {one.says}
            </option>
          ))}
        </select>
        <Button type="submit" look="primary" disabled={!typed || !onScale}>
          Scale
        </Button>
      </form>
      <p role="status" className="mt-1.5 text-ink-2">
        {typed
          ? `${typed.factor.toPrecision(5)} times: ${becomes(typed.factor)}, ${volume(
              report.volume_mm3 * typed.factor ** 3,
            )}.`
          : "What it comes to is told before."}
      </p>
      {offered.length > 0 && (
        <ul aria-label="Proposed sizes" className="mt-2 divide-y divide-rule border-y border-rule">
          {offered.map(({ says, factor, parameters }) => (
            <li key={says}>
              <button
                type="button"
                disabled={!onScale}
                className="w-full py-1.5 text-left enabled:hover:bg-paper-2 disabled:text-ink-2"
                onClick={() => onScale?.(parameters)}
              >
                <b className="font-[650]">{becomes(factor)}</b>{" "}
                <span className="text-ink-2">
                  {says}; {(factor * 100).toFixed(1)} %
                </span>
              </button>
            </li>
          ))}
        </ul>
      )}
    </section>
  );
}
