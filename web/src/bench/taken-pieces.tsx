import { useState } from "react";
import type { Material, Operation } from "../api/client";
import { Button } from "../ui/button";
import { Dialog } from "../ui/dialog";
import { Complaint, Field, inputLook } from "../ui/field";
import { piecesCalled, plural } from "../ui/format";
import { OneOf } from "../ui/one-of";
import { type EarlierState, useGiven } from "../ui/operation-fields";

/** What can be done to taken pieces, and of how many of all it is offered. */
const COMBINED: readonly Done[] = [
  { operation: "unite", says: "Unite", fits: (count) => count > 1 },
  { operation: "intersect", says: "Keep what they share", fits: (count) => count > 1 },
  { operation: "drop-pieces", says: "Take out", fits: (count, of) => count < of },
  { operation: "extract", says: "Leave only these", fits: (count, of) => count < of },
];
/** The same where something has to be typed first. */
const ASKED: readonly Done[] = [
  { operation: "subtract", says: "Take off the rest", fits: (count, of) => count < of },
  { operation: "cut-out", says: "Cut the rest with it", fits: (count, of) => count < of },
  { operation: "turn", says: "Turn", fits: () => true },
  { operation: "mirror", says: "Mirror", fits: () => true },
  { operation: "copy", says: "Copy", fits: () => true },
  { operation: "put-back", says: "Put back", fits: () => true },
];
type Done = { operation: string; says: string; fits: (count: number, of: number) => boolean };

/** Parameters that are settled by what was taken. */
const SETTLED: Record<string, readonly string[]> = {
  "cut-out": ["shape", "at", "size", "axis"],
};
const GIVEN: Record<string, Record<string, unknown>> = { "cut-out": { shape: "piece" } };

export type OnOperate = (
  operation: string,
  pieces: readonly number[],
  given?: Record<string, unknown>,
) => void;

export type WantedItem = {
  /** Of the item; each of several is called as its piece is. */
  name: string;
  each: boolean;
  /** They leave the item that they are of. */
  takeOut: boolean;
};

type Props = {
  /** Numbers of the taken pieces. */
  taken: readonly number[];
  /** How many there are in all. */
  of: number;
  operations: readonly Operation[];
  /** The material ordered, for what its sheet asks of a seat. */
  material: Material | undefined;
  onHide: () => void;
  onOnly: () => void;
  onChooseFaces: () => void;
  /** Null when nothing can be run now. */
  onOperate: OnOperate | null;
  /** Make an item of them, or one of each; null when that cannot be now. */
  onDerive: ((wanted: WantedItem) => Promise<unknown>) | null;
  /** Measure between the two that are taken; null when one may not. */
  onBetween?: (() => void) | null;
  onLetGo: () => void;
  /** Take them in hand, to be moved. */
  onCarry: () => void;
  /** Other states of the model, the first one first. */
  earlier?: readonly EarlierState[];
};

/** What can be done with several pieces together. */
export function TakenPieces(props: Props) {
  const { taken, of, operations, onOperate, onDerive } = props;
  const [asked, setAsked] = useState<Done | "item" | null>(null);
  const open = asked !== "item" && operations.find((one) => one.name === asked?.operation);
  if (!taken.length) return null;
  const can = (operation: string) => operations.some(({ name }) => name === operation);
  const { earlier = [] } = props;
  const fits = (one: Done) =>
    one.fits(taken.length, of) &&
    can(one.operation) &&
    (one.operation !== "put-back" || earlier.length > 0);
  return (
    <section aria-label="Taken pieces" className="bg-ink px-3.5 py-2 text-chalk">
      <div className="flex">
        <b className="font-[650]">{plural(taken.length, "piece")} taken</b>
        <button type="button" className="ml-auto hover:underline" onClick={props.onLetGo}>
          Let go
        </button>
      </div>
      <div className="mt-1 flex flex-wrap gap-1">
        <Small onClick={props.onHide}>Hide</Small>
        <Small onClick={props.onOnly}>Only these</Small>
        <Small onClick={props.onChooseFaces}>Choose their faces</Small>
        {taken.length === 2 && props.onBetween && (
          <Small onClick={props.onBetween}>Measure between</Small>
        )}
        {COMBINED.filter(fits).map(({ operation, says }) => (
          <Small key={operation} onClick={onOperate && (() => onOperate(operation, taken))}>
            {says}
          </Small>
        ))}
        {can("move") && <Small onClick={onOperate && props.onCarry}>Move…</Small>}
        {ASKED.filter(fits).map((one) => (
          <Small key={one.operation} onClick={onOperate && (() => setAsked(one))}>
            {one.says}…
          </Small>
        ))}
        <Small onClick={onDerive && (() => setAsked("item"))}>Make an item…</Small>
      </div>
      {asked !== null && asked !== "item" && open && onOperate && (
        <Dialog
          open
          onOpenChange={(next) => !next && setAsked(null)}
          title={`${asked.says}: ${piecesCalled(taken)}`}
          about={open.about}
        >
          <Asked
            operation={open}
            says={asked.says}
            clearance={props.material?.rules?.clearance}
            earlier={earlier}
            onGiven={(given) => {
              setAsked(null);
              onOperate(open.name, taken, { ...given, ...GIVEN[open.name] });
            }}
          />
        </Dialog>
      )}
      {asked === "item" && onDerive && (
        <Dialog
          open
          onOpenChange={(next) => !next && setAsked(null)}
          title={`An item of ${piecesCalled(taken)}`}
          about="It comes into the same order, in the same material, with what is known of the pieces."
        >
          <NewItem
            count={taken.length}
            leaves={taken.length < of}
            onMake={(wanted) => onDerive(wanted).then(() => setAsked(null))}
          />
        </Dialog>
      )}
    </section>
  );
}

function Small(props: { onClick: (() => void) | null; children: React.ReactNode }) {
  return (
    <Button
      className="!px-1.5 !py-0"
      disabled={!props.onClick}
      onClick={props.onClick ?? undefined}
    >
      {props.children}
    </Button>
  );
}

function Asked(props: {
  operation: Operation;
  says: string;
  clearance: number | undefined;
  earlier: readonly EarlierState[];
  onGiven: (given: Record<string, unknown>) => void;
}) {
  const { operation, says, clearance, earlier, onGiven } = props;
  const given = useGiven(operation, {
    earlier,
    without: SETTLED[operation.name],
    usual: operation.name === "subtract" && clearance ? { clearance, keep: true } : {},
  });
  return (
    <form
      className="space-y-3"
      onSubmit={(event) => {
        event.preventDefault();
        if (given.complete) onGiven(given.values);
      }}
    >
      {given.fields}
      <Button type="submit" look="primary" disabled={!given.complete}>
        {says}
      </Button>
    </form>
  );
}

const BECOMING = [
  { value: false, says: "one item, each piece at its place" },
  { value: true, says: "an item each, called as the piece is" },
];

function NewItem(props: {
  count: number;
  /** Whether anything stays in the item that they are of. */
  leaves: boolean;
  onMake: (wanted: WantedItem) => Promise<unknown>;
}) {
  const [name, setName] = useState("");
  const [each, setEach] = useState(false);
  const [takeOut, setTakeOut] = useState(props.leaves);
  const [problem, setProblem] = useState("");
  const can = each || name.trim() !== "";
  return (
    <form
      className="space-y-3"
      onSubmit={(event) => {
        event.preventDefault();
        if (!can) return;
        props
          .onMake({ name: each ? "" : name.trim(), each, takeOut: takeOut && props.leaves })
          .catch((one: unknown) => setProblem(one instanceof Error ? one.message : String(one)));
      }}
    >
      {props.count > 1 && (
        <OneOf label="They become" name="become" value={each} of={BECOMING} onChange={setEach} />
      )}
      {!each && (
        <Field label="Name of the item">
          <input
            className={inputLook}
            maxLength={120}
            value={name}
            onChange={(event) => setName(event.target.value)}
          />
        </Field>
      )}
      {props.leaves && (
        <label className="flex items-center gap-2">
          <input
            type="checkbox"
            checked={takeOut}
            onChange={(event) => setTakeOut(event.target.checked)}
          />
          They leave this item
        </label>
      )}
      {problem && <Complaint>{problem}</Complaint>}
      <Button type="submit" look="primary" disabled={!can}>
        {each ? `Make ${props.count} items` : "Make the item"}
      </Button>
    </form>
  );
}
