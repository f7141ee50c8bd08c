import { useMemo, useState } from "react";
import type { Operation } from "../api/client";
import { Button } from "../ui/button";
import { inputLook } from "../ui/field";
import { count, plural } from "../ui/format";
import {
  choiceOf,
  crossing,
  nothingOf,
  runsOf,
  stepped,
  sumsOf,
  turnedOver,
  withFaces,
} from "../viewer/choice";
import { Choices, Row } from "./bar";
import { choiceOn, usualRadius } from "./choose";
import type { Ground } from "./ground";
import { type ChooseBy, useHand } from "./hand";
import type { EarlierState } from "../ui/operation-fields";
import { TouchUp } from "./touch-up";

const WAYS: readonly { value: ChooseBy; says: string }[] = [
  { value: "brush", says: "brush" },
  { value: "rectangle", says: "rectangle" },
  { value: "lasso", says: "lasso" },
  { value: "flat", says: "flat face" },
  { value: "smooth", says: "up to edges" },
  { value: "piece", says: "piece" },
];

type Props = {
  ground: Ground;
  operations: readonly Operation[];
  /** Other states of the item. */
  earlier: readonly EarlierState[];
  /** Null when nothing can be run now. */
  onRun: ((operation: Operation, given: Record<string, unknown>) => void) | null;
  /** Faces of the finding that is open in the ledger, and its number. */
  finding: { number: number; faces: Uint32Array } | null;
};

/** Choosing faces: in which way, what is chosen in numbers, and what can be done with it. */
export function ChooseBar({ ground, operations, earlier, onRun, finding }: Props) {
  const how = useHand((hand) => hand.choose);
  const cut = useHand((hand) => hand.cut);
  const past = useHand((hand) => hand.past.length);
  const remembered = useHand((hand) => hand.remembered);
  const held = useHand((hand) => hand.choice);
  const { setChoose, setChoice, undo, remember } = useHand.getState();
  const { skin, near, revision } = ground;
  const faces = useMemo(
    () => (held?.revision === revision ? held.faces : nothingOf(skin)),
    [held, revision, skin],
  );
  const sums = useMemo(() => near && sumsOf(skin, near, faces), [skin, near, faces]);
  const some = (sums?.count ?? 0) > 0;
  const recallable = remembered.filter((one) => one.revision === revision);
  const set = (next: typeof faces) => setChoice(next, revision);
  return (
    <>
      <Row>
        <Choices
          label="How to choose"
          value={how.by}
          of={WAYS}
          onChange={(by) => setChoose({ by })}
        />
        <span className="ml-auto">
          <Choices
            label="What a stroke does"
            value={how.takes ? "takes" : "adds"}
            of={[
              { value: "adds", says: "adds" },
              { value: "takes", says: "takes away" },
            ]}
            onChange={(value) => setChoose({ takes: value === "takes" })}
          />
        </span>
      </Row>
      <Row>
        {how.by === "brush" && (
          <Size
            label="radius"
            unit="mm"
            value={how.radius ?? usualRadius(ground)}
            onChange={(radius) => setChoose({ radius })}
          />
        )}
        {(how.by === "flat" || how.by === "smooth") && (
          <Size
            label={how.by === "flat" ? "leaning up to" : "bent up to"}
            unit="°"
            value={how.angle}
            onChange={(angle) => setChoose({ angle: Math.min(180, angle) })}
          />
        )}
        {(how.by === "rectangle" || how.by === "lasso") && (
          <label className="flex items-center gap-1.5">
            <input
              type="checkbox"
              checked={how.through}
              onChange={(event) => setChoose({ through: event.target.checked })}
            />
            through the body
          </label>
        )}
        {finding && (
          <Small onClick={() => set(withFaces(choiceOn(ground), finding.faces, how.takes))}>
            {how.takes ? "Without" : "With"} finding {finding.number}
          </Small>
        )}
        {cut && ground.clip && (
          <Small
            onClick={() =>
              set(withFaces(choiceOn(ground), crossing(skin, ground.clip!.plane), how.takes))
            }
          >
            What the cut crosses
          </Small>
        )}
        <span className="ml-auto flex flex-wrap gap-1.5">
          <Small onClick={() => near && set(stepped(near, faces, true))} off={!some}>
            Grow
          </Small>
          <Small onClick={() => near && set(stepped(near, faces, false))} off={!some}>
            Shrink
          </Small>
          <Small onClick={() => set(turnedOver(faces))}>The others</Small>
          <Small onClick={() => set(nothingOf(skin))} off={!some}>
            Nothing
          </Small>
          <Small onClick={undo} off={!past}>
            Step back
          </Small>
          <Small
            off={!some}
            onClick={() =>
              remember({
                name: `${count(recallable.length + 1)}: ${plural(sums!.count, "triangle")}`,
                revision,
                runs: runsOf(faces),
              })
            }
          >
            Remember
          </Small>
          {recallable.length > 0 && (
            <select
              aria-label="Recall"
              className="rounded border border-rule bg-sheet px-1"
              value=""
              onChange={(event) => {
                const one = recallable[Number(event.target.value)];
                if (one) set(choiceOf(one.runs, faces.length));
              }}
            >
              <option value="">Recall…</option>
              {recallable.map((one, i) => (
                <option key={one.name} value={i}>
                  {one.name}
                </option>
              ))}
            </select>
          )}
        </span>
      </Row>
      <div className="border-t border-rule pt-2">
        <p role="status" data-testid="chosen">
          {!sums ? (
            "Sorting the faces…"
          ) : some ? (
            <>
              <b className="font-[650]">{plural(sums.count, "triangle")}</b>, {area(sums.area)},{" "}
              {sums.pieces === 1 ? "one piece" : `${count(sums.pieces)} pieces`}
            </>
          ) : (
            "Nothing is chosen. Shift turns adding into taking away."
          )}
        </p>
      </div>
      <TouchUp
        operations={operations}
        earlier={earlier}
        faces={faces}
        onRun={some ? onRun : null}
        some={some}
      />
    </>
  );
}

const area = (mm2: number) =>
  mm2 >= 100 ? `${(mm2 / 100).toFixed(1)} cm²` : `${mm2.toFixed(2)} mm²`;

function Small(props: { onClick: () => void; off?: boolean; children: React.ReactNode }) {
  return (
    <Button className="!px-2 !py-0.5 !font-normal" disabled={props.off} onClick={props.onClick}>
      {props.children}
    </Button>
  );
}

/** A size that is typed; what cannot be one is not taken. */
function Size(props: {
  label: string;
  unit: string;
  value: number;
  onChange: (value: number) => void;
}) {
  const [text, setText] = useState<string | null>(null);
  return (
    <label className="flex items-center gap-1.5">
      {props.label}
      <input
        type="number"
        min={0}
        step="any"
        className={`${inputLook} !w-20 !py-1`}
        value={text ?? props.value}
        onChange={(event) => {
          setText(event.target.value);
          const value = Number(event.target.value);
          if (value > 0) props.onChange(value);
        }}
        onBlur={() => setText(null)}
      />
      {props.unit}
    </label>
  );
}
