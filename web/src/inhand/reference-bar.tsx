import { inputLook } from "../ui/field";
import { sizeOf } from "../ui/format";
import { Choices, Row } from "./bar";
import { type ReferenceKind, useHand } from "./hand";

const KINDS: readonly { value: ReferenceKind; says: string }[] = [
  { value: "none", says: "nothing" },
  { value: "cube", says: "a cube" },
  { value: "coin", says: "a coin" },
  { value: "hand", says: "a hand" },
];
const MACHINE = { value: "machine" as const, says: "the machine" };
const SIZED = { cube: "edge", coin: "across", hand: "wrist to fingertip" } as const;

/** A thing of known size beside the model, or what the machine can make round it. */
export function ReferenceBar(props: {
  machine: { name: string; sides: readonly [number, number, number] } | null;
}) {
  const { kind, size } = useHand((hand) => hand.reference);
  const setReference = useHand((hand) => hand.setReference);
  const sized = kind === "cube" || kind === "coin" || kind === "hand" ? kind : null;
  return (
    <Row>
      <Choices
        label="What to stand beside it"
        value={kind}
        of={props.machine ? [...KINDS, MACHINE] : KINDS}
        onChange={(value) => setReference({ kind: value })}
      />
      {sized && (
        <label className="flex items-center gap-1.5">
          {SIZED[sized]}
          <input
            type="number"
            min={0.1}
            step="any"
            className={`${inputLook} !w-20 !py-1`}
            value={size[sized]}
            onChange={(event) => {
              const value = Number(event.target.value);
              if (value > 0 && value < 1e5) setReference({ size: { ...size, [sized]: value } });
            }}
          />
          mm
        </label>
      )}
      {kind === "machine" && props.machine && (
        <span className="text-ink-2">
          {props.machine.name}, {sizeOf(props.machine.sides)}
        </span>
      )}
    </Row>
  );
}
