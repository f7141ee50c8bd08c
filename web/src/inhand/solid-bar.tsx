import { useState } from "react";
import { Button } from "../ui/button";
import { inputLook } from "../ui/field";
import { Row } from "./bar";
import { cutOutBy } from "./cut";
import { type Cutter, useHand } from "./hand";
import { Spacing, USUAL_SPACING } from "./into-parts";
import { NoCut } from "./no-cut";

const AXES = ["x", "y", "z"] as const;

/** A block or cylinder that parts what lies in it from the rest: where it is, and how large. */
export function SolidBar(props: {
  shape: "block" | "cylinder";
  /** Null when nothing can be run now. */
  onCut: ((given: Record<string, unknown>) => void) | null;
}) {
  const { shape, onCut } = props;
  const cutter = useHand((hand) => hand.cutter);
  const { setCutter } = useHand.getState();
  const [spacing, setSpacing] = useState(String(USUAL_SPACING));
  const apart = Number(spacing);
  if (!cutter) return null;
  const change = (part: Partial<Cutter>) => setCutter({ ...cutter, ...part });
  const lengths = shape === "block" ? cutter.sides : [cutter.across, cutter.height];
  const can =
    onCut !== null && apart > 0 && apart <= 1000 && lengths.every((mm) => mm > 0 && mm < 1e5);
  const at = (i: number, mm: number) =>
    cutter.at.map((was, k) => (k === i ? mm : was)) as [number, number, number];
  const side = (i: number, mm: number) =>
    cutter.sides.map((was, k) => (k === i ? mm : was)) as [number, number, number];
  return (
    <form
      aria-label={`With a ${shape}`}
      className="space-y-1.5"
      onSubmit={(event) => {
        event.preventDefault();
        if (can) onCut({ ...cutOutBy(shape, cutter), spacing: apart });
      }}
    >
      <Row>
        <span className="w-16 text-ink-2">middle at</span>
        {AXES.map((axis, i) => (
          <Length
            key={axis}
            says={axis}
            label={`Middle, ${axis}`}
            value={cutter.at[i]!}
            onChange={(mm) => change({ at: at(i, mm) })}
          />
        ))}
        <span className="text-ink-2">mm, or click where it is to be</span>
        <NoCut className="ml-auto" />
      </Row>
      <Row>
        {shape === "block" ? (
          <>
            <span className="w-16 text-ink-2">sides</span>
            {AXES.map((axis, i) => (
              <Length
                key={axis}
                says={axis}
                label={`Side, ${axis}`}
                least={0.001}
                value={cutter.sides[i]!}
                onChange={(mm) => change({ sides: side(i, mm) })}
              />
            ))}
          </>
        ) : (
          <>
            <Length
              says="across"
              label="Across"
              least={0.001}
              value={cutter.across}
              onChange={(across) => change({ across })}
            />
            <Length
              says="long"
              label="Long"
              least={0.001}
              value={cutter.height}
              onChange={(height) => change({ height })}
            />
            <label className="flex items-center gap-1.5">
              along
              <select
                aria-label="Along"
                className="rounded border border-slate bg-sheet px-2 py-1"
                value={cutter.axis}
                onChange={(event) => change({ axis: event.target.value as Cutter["axis"] })}
              >
                {AXES.map((axis) => (
                  <option key={axis}>{axis}</option>
                ))}
              </select>
            </label>
          </>
        )}
        <span className="text-ink-2">mm</span>
        <Spacing value={spacing} onChange={setSpacing} />
        <Button type="submit" look="primary" className="ml-auto !py-1" disabled={!can}>
          Cut it out
        </Button>
      </Row>
    </form>
  );
}

/** A typed length; what is no number yet waits to be typed on. */
function Length(props: {
  says: string;
  label: string;
  least?: number;
  value: number;
  onChange: (mm: number) => void;
}) {
  const shown = Number(props.value.toFixed(3));
  const [typed, setTyped] = useState<string | null>(null);
  return (
    <label className="flex items-center gap-1">
      {props.says}
      <input
        type="number"
        step="any"
        min={props.least}
        aria-label={`${props.label}, mm`}
        className={`${inputLook} !w-20 !px-1.5 !py-1`}
        value={typed ?? shown}
        onChange={(event) => {
          setTyped(event.target.value);
          const mm = event.target.valueAsNumber;
          if (Number.isFinite(mm) && (props.least === undefined || mm > 0)) props.onChange(mm);
        }}
        onBlur={() => setTyped(null)}
      />
    </label>
  );
}
