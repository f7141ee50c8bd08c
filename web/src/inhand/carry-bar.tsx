import { useEffect, useRef } from "react";
import { Button } from "../ui/button";
import { piecesCalled } from "../ui/format";
import { Choices, Row } from "./bar";
import { type CarryWay, useHand } from "./hand";
import { Three } from "./typed-lengths";

const WAYS: readonly { value: CarryWay; says: string }[] = [
  { value: "view", says: "as I see it" },
  { value: "level", says: "level" },
  { value: "x", says: "along x" },
  { value: "y", says: "along y" },
  { value: "z", says: "along z" },
];

/** How far the pieces in hand are moved: dragged on the model, or typed. */
export function CarryBar(props: {
  /** Null when nothing can be run now. */
  onMove: ((pieces: readonly number[], by: readonly number[]) => void) | null;
}) {
  const carry = useHand((hand) => hand.carry);
  const { setCarry, take } = useHand.getState();
  const form = useRef<HTMLFormElement>(null);
  const held = carry !== null;
  // who takes pieces in hand by key goes on by key
  useEffect(() => {
    if (held) form.current?.querySelector("input")?.select();
  }, [held]);
  if (!carry) return null;
  const { pieces, by, way } = carry;
  const moved = by.some((mm) => mm !== 0);
  const called = piecesCalled(pieces);
  const them = pieces.length === 1 ? "it" : "them";
  return (
    <form
      ref={form}
      aria-label={`Move ${called}`}
      className="space-y-1.5"
      onSubmit={(event) => {
        event.preventDefault();
        if (moved) props.onMove?.(pieces, by);
      }}
    >
      <Row>
        <b className="font-[650]">Move {called}</b>
        <span className="text-ink-2">Drag {them} on the model, or type how far.</span>
      </Row>
      <Row>
        <Choices
          label="Which way"
          value={way}
          of={WAYS}
          onChange={(next) => setCarry({ way: next })}
        />
      </Row>
      <Row>
        <Three says="by" label="By" values={by} onChange={(next) => setCarry({ by: next })} />
        <span className="text-ink-2">mm</span>
        <span className="ml-auto flex gap-1.5">
          <Button className="!py-1" onClick={() => take("turn")}>
            Do not move
          </Button>
          <Button type="submit" look="primary" className="!py-1" disabled={!moved || !props.onMove}>
            Move
          </Button>
        </span>
      </Row>
    </form>
  );
}
