import { useState } from "react";
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
  onConfirm: ((reason: string) => void) | null;
};

/** The unit that the file's numbers are read in, and what size each would give. */
export function SizePanel({ item, revision, onUnit, onConfirm }: Props) {
  const [reason, setReason] = useState("");
  const now = revision.report.unit as Unit;
  const numbers = revision.report.size_mm.map((mm) => mm / UNITS[now]);
  const doubt = revision.report.findings.some((one) => one.kind === "unit-suspect");
  const waiver = item.waivers.find((one) => one.kind === "unit-suspect");
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
      {doubt && (
        <form
          className="border-t border-rule p-4"
          onSubmit={(event) => {
            event.preventDefault();
            onConfirm?.(reason.trim() || `The size in ${NAMES[now]} is right.`);
          }}
        >
          {waiver ? (
            <p>
              Accepted by {waiver.by}: “{waiver.reason}”
            </p>
          ) : (
            <>
              <label className="mb-1 block" htmlFor="reason">
                It is right as it is, because
              </label>
              <input
                id="reason"
                className={inputLook}
                maxLength={1000}
                placeholder={`The size in ${NAMES[now]} is right.`}
                value={reason}
                onChange={(event) => setReason(event.target.value)}
              />
              <Button type="submit" className="mt-2" disabled={!onConfirm}>
                Keep this size
              </Button>
            </>
          )}
        </form>
      )}
    </div>
  );
}
