import { useState } from "react";
import { inputLook } from "../ui/field";

const AXES = ["x", "y", "z"] as const;
export type ThreeLengths = readonly [number, number, number];

/** Three typed lengths, along x, y and z. */
export function Three(props: {
  says: string;
  label: string;
  least?: number;
  values: ThreeLengths;
  onChange: (values: ThreeLengths) => void;
}) {
  const { says, label, least, values, onChange } = props;
  return (
    <>
      <span className="w-16 text-ink-2">{says}</span>
      {AXES.map((axis, i) => (
        <Length
          key={axis}
          says={axis}
          label={`${label}, ${axis}`}
          least={least}
          value={values[i]!}
          onChange={(mm) =>
            onChange(values.map((was, k) => (k === i ? mm : was)) as [number, number, number])
          }
        />
      ))}
    </>
  );
}

/** A typed length; what is no number yet waits to be typed on. */
export function Length(props: {
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
