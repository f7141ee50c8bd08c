import { useId, useState } from "react";
import type { Item, Revision } from "../api/client";
import { Button } from "../ui/button";
import { inputLook } from "../ui/field";
import { sizeOf } from "../ui/format";

const UNITS = { mm: 1, cm: 10, m: 1000, in: 25.4, ft: 304.8 } as const;
const NAMES = { mm: "millimetres", cm: "centimetres", m: "metres", in: "inches", ft: "feet" };
type Unit = keyof typeof UNITS;

type Props = {
  item: Item;
  revision: Revision;
  onUnit: ((unit: string) => void) | null;
  onConfirm: ((kind: string, reason: string) => void) | null;
};

/** What a person says who takes the size as it is. */
const CONFIRMS: Record<string, (unit: string) => string> = {
  "unit-suspect": (unit) => `The size in ${unit} is right.`,
  "too-large": () => "It is made in parts, or elsewhere.",
  "too-small": () => "It is meant to be this small.",
};

/** The unit that the file's numbers are read in, and what size each would give. */
export function SizePanel({ item, revision, onUnit, onConfirm }: Props) {
  const now = revision.report.unit as Unit;
  const numbers = revision.report.size_mm.map((mm) => mm / UNITS[now]);
  const found = revision.report.findings.filter((one) =>
    ["unit-suspect", "too-large", "too-small", "file-too-big"].includes(one.kind),
  );
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
              unit === now
                ? "border-blue bg-sheet font-[650]"
                : "border-transparent hover:bg-paper-2"
            }`}
          >
            <input
              type="radio"
              name="unit"
              value={unit}
              checked={unit === now}
              disabled={!onUnit && unit !== now}
              onChange={() => onUnit?.(unit)}
            />
            <span className="w-20">{NAMES[unit]}</span>
            <span className="flex-1 whitespace-nowrap text-right">
              {sizeOf(numbers.map((n) => n * UNITS[unit]))}
            </span>
          </label>
        ))}
        <p className="mt-3 text-ink-2">
          Another unit makes a new revision: every coordinate times the same number, the shape as it
          was.
        </p>
      </fieldset>
      {found.map((finding) => (
        <section key={finding.kind} data-kind={finding.kind} className="border-t border-rule p-4">
          {finding.kind !== "unit-suspect" && <p className="mb-2">{finding.text}</p>}
          {finding.severity === "call" && (
            <Confirm
              usual={CONFIRMS[finding.kind]?.(NAMES[now]) ?? ""}
              waiver={item.waivers.find((one) => one.kind === finding.kind)}
              onConfirm={onConfirm && ((reason) => onConfirm(finding.kind, reason))}
            />
          )}
        </section>
      ))}
    </div>
  );
}

function Confirm(props: {
  usual: string;
  waiver: Item["waivers"][number] | undefined;
  onConfirm: ((reason: string) => void) | null;
}) {
  const [reason, setReason] = useState("");
  const id = useId();
  if (props.waiver) {
    return (
      <p>
        Accepted by {props.waiver.by}: “{props.waiver.reason}”
      </p>
    );
  }
  return (
    <form
      onSubmit={(event) => {
        event.preventDefault();
        props.onConfirm?.(reason.trim() || props.usual);
      }}
    >
      <label className="mb-1 block" htmlFor={id}>
        It is right as it is, because
      </label>
      <input
        id={id}
        className={inputLook}
        maxLength={1000}
        placeholder={props.usual}
        value={reason}
        onChange={(event) => setReason(event.target.value)}
      />
      <Button type="submit" className="mt-2" disabled={!props.onConfirm}>
        Keep this size
      </Button>
    </form>
  );
}
