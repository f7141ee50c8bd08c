import { useState } from "react";
import type { Cover, Item, Material, Operation, Revision } from "../api/client";
import { Button } from "../ui/button";
import { sizeOf, UNIT_NAMES } from "../ui/format";
import { Reason } from "../ui/reason";
import { type OnRun, Remedy } from "./remedy";
import type { Row } from "./rows";
import { ScalePanel } from "./scale-panel";
import { Siblings } from "./siblings";
import { TakeBack } from "./take-back";
import { useMachineFor } from "./use-machine";
import type { Work } from "./use-work";

const UNITS = { mm: 1, cm: 10, m: 1000, in: 25.4, ft: 304.8 } as const;
type Unit = keyof typeof UNITS;

type Props = {
  item: Item;
  revision: Revision;
  /** The findings of *Size*, and what accepts each. */
  rows: Row[];
  coverOf: (row: Row) => Cover | null;
  /** The material ordered, once it is known. */
  material: Material | undefined;
  onUnit: ((unit: string) => void) | null;
  onScale: ((parameters: Record<string, unknown>) => void) | null;
  onAccept: Work["accept"] | null;
  onWithdraw: Work["withdraw"] | null;
  operations?: readonly Operation[];
  /** Null when nothing can be run now. */
  onRun?: OnRun | null;
};

const NO_OPERATIONS: readonly Operation[] = [];

/** What a person says who takes the size as it is. */
const CONFIRMS: Record<string, (unit: string) => string> = {
  "unit-suspect": (unit) => `The size in ${unit} is right.`,
  "too-large": () => "It is made in parts, or elsewhere.",
  "too-small": () => "It is meant to be this small.",
};

/** The unit that the file's numbers are read in, and what size each would give. */
export function SizePanel({ operations = NO_OPERATIONS, onRun = null, ...props }: Props) {
  const { item, revision, rows, coverOf, onUnit, onAccept, onWithdraw } = props;
  const machine = useMachineFor(props.material);
  const now = revision.report.unit as Unit;
  const numbers = revision.report.size_mm.map((mm) => mm / UNITS[now]);
  // once it is told, the size itself is judged: whether it fits a machine
  const inDoubt = rows.some((row) => row.finding.kind === "unit-suspect" && !coverOf(row));
  // arrow keys go from one to the next; only the button starts work
  const [chosen, setChosen] = useState<{ of: number; unit: Unit } | null>(null);
  const unitChosen = chosen?.of === revision.id ? chosen.unit : now;
  return (
    <div className="min-h-0 flex-1 overflow-auto border-t border-rule">
      <fieldset className="p-4">
        <legend className="float-left mb-2 w-full text-ink-2">
          The file&apos;s numbers read as
        </legend>
        {(Object.keys(UNITS) as Unit[]).map((unit) => (
          <label
            key={unit}
            className={`flex items-center gap-2 border-l-3 px-2 py-1.5 ${
              unit === unitChosen
                ? "border-blue bg-sheet font-[650]"
                : "border-transparent hover:bg-paper-2"
            }`}
          >
            <input
              type="radio"
              name="unit"
              value={unit}
              checked={unit === unitChosen}
              onChange={() => setChosen({ of: revision.id, unit })}
            />
            <span className="w-20">{UNIT_NAMES[unit]}</span>
            <span className="flex-1 whitespace-nowrap text-right">
              {sizeOf(numbers.map((n) => n * UNITS[unit]))}
            </span>
          </label>
        ))}
        {unitChosen === now && inDoubt && (
          <Button className="mt-3" disabled={!onUnit} onClick={() => onUnit?.(now)}>
            They are {UNIT_NAMES[now]}
          </Button>
        )}
        {unitChosen !== now && (
          <Button
            look="primary"
            className="mt-3"
            disabled={!onUnit}
            onClick={() => onUnit?.(unitChosen)}
          >
            Read it in {UNIT_NAMES[unitChosen]}
          </Button>
        )}
        <p className="mt-3 text-ink-2">
          Another unit makes a new revision: every coordinate times the same number, the shape as it
          was.
        </p>
      </fieldset>
      <ScalePanel
        key={revision.id}
        item={item}
        report={revision.report}
        material={props.material?.key ?? ""}
        machine={machine}
        onScale={props.onScale}
      />
      <Siblings item={item.id} revision={revision.id} />
      {rows.map((row) => {
        const { kind, severity, text, spots } = row.finding;
        const cover = coverOf(row);
        return (
          <section key={kind} data-kind={kind} className="border-t border-rule p-4">
            {kind !== "unit-suspect" && <p className="mb-2">{text}</p>}
            {!cover &&
              operations
                .filter((one) => one.answers.includes(kind))
                .map((one) => <Remedy key={one.name} row={row} operation={one} onRun={onRun} />)}
            {cover ? (
              <>
                <p>
                  Accepted by {cover.by || "the shop"}: “{cover.reason}”
                </p>
                <TakeBack
                  about={`${item.id} withdraw ${kind}`}
                  cover={cover}
                  onWithdraw={onWithdraw}
                />
              </>
            ) : (
              severity === "call" && (
                <>
                  <p className="mb-1 mt-3">It is right as it is, because</p>
                  <Reason
                    about={`${item.id} accept ${kind}`}
                    label="It is right as it is, because"
                    placeholder={CONFIRMS[kind]?.(UNIT_NAMES[now]) ?? ""}
                    usual={CONFIRMS[kind]?.(UNIT_NAMES[now]) ?? ""}
                    says="Keep this size"
                    onReason={
                      onAccept && ((reason) => onAccept(kind, [row.place], spots.length, reason))
                    }
                  />
                </>
              )
            )}
          </section>
        );
      })}
    </div>
  );
}
