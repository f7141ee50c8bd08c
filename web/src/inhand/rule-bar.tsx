import { useState } from "react";
import type { KeptMeasure } from "../api/client";
import { Button } from "../ui/button";
import { Complaint, inputLook } from "../ui/field";
import { Choices, Row } from "./bar";
import { type RuleKind, useHand } from "./hand";
import type { useKeptMeasures } from "./kept-measures";
import type { Pick } from "../viewer/picks";
import { type Measured, NEEDED } from "./measure";
import { pieceText } from "./rule";
import { type HandInView, valueText } from "./use-in-hand";

const KINDS: readonly { value: RuleKind; says: string; asks: string }[] = [
  { value: "distance", says: "distance", asks: "Pick two places." },
  { value: "angle", says: "angle", asks: "Pick two faces or edges." },
  {
    value: "round",
    says: "round",
    asks: "Pick a round edge, a cylinder, or a round line of a cut.",
  },
  { value: "through", says: "through", asks: "Pick a face, or the inside of a wall in a cut." },
  { value: "piece", says: "piece", asks: "Pick a piece." },
];

type Props = {
  hand: HandInView;
  kept: ReturnType<typeof useKeptMeasures>;
  /** Null where nothing may be changed. */
  onScale: ((factor: number) => void) | null;
  mayKeep: boolean;
  /** Lay the piece of the first pick against the face of the second; null where it cannot be. */
  onLay: ((first: Pick, second: Pick) => void) | null;
};

/** Measuring: what is measured, what has been found, and what is kept. */
export function RuleBar({ hand, kept, onScale, mayKeep, onLay }: Props) {
  const { kind, centres, picks } = useHand((held) => held.rule);
  const setRule = useHand((held) => held.setRule);
  const { found, ground } = hand;
  const asks = KINDS.find((one) => one.value === kind)!.asks;
  const left = NEEDED[kind] - picks.length;
  const piece = kind === "piece" && picks[0] && ground ? picks[0].shell : null;
  return (
    <>
      <Row>
        <Choices
          label="What to measure"
          value={kind}
          of={KINDS}
          onChange={(value) => setRule({ kind: value, picks: [], shown: null })}
        />
        {kind === "distance" && (
          <label className="ml-auto flex items-center gap-1.5">
            <input
              type="checkbox"
              checked={centres}
              onChange={(event) => setRule({ centres: event.target.checked, picks: [] })}
            />
            centres of what is round
          </label>
        )}
      </Row>
      <p role="status" className="text-ink-2">
        {piece !== null && ground ? (
          <>
            <b className="font-[650] text-ink">{ground.nameOf(piece)}</b> {pieceText(ground, piece)}
          </>
        ) : typeof found === "string" ? (
          found
        ) : found ? (
          <>
            {found.between}{" "}
            <b data-testid="measured" className="font-[650] text-ink">
              {valueText(found.kind, found.value)}
            </b>
            {found.more && ` (${found.more})`}
          </>
        ) : left < NEEDED[kind] ? (
          `${picks.length} picked; ${left} more.`
        ) : (
          asks
        )}
      </p>
      {kind !== "piece" && (
        // there before there is anything in it, so that the view does not move under the picks
        <FoundRow
          found={found && typeof found !== "string" ? found : null}
          kept={kept}
          onScale={onScale}
          mayKeep={mayKeep}
          onLay={
            kind === "distance" && onLay && laysOn(picks) ? () => onLay(picks[0]!, picks[1]!) : null
          }
        />
      )}
      <KeptRows kept={kept} mayKeep={mayKeep} />
    </>
  );
}

/** Whether two picks are on faces of different pieces. */
const laysOn = ([first, second]: readonly Pick[]) =>
  first !== undefined &&
  second !== undefined &&
  first.shell !== second.shell &&
  [first, second].every((one) => one.face >= 0 && one.normal.length() > 0.5);

/** What can be done with what was measured: keep it, or make the model fit what it should be. */
function FoundRow(props: {
  found: Measured | null;
  kept: Props["kept"];
  onScale: Props["onScale"];
  mayKeep: boolean;
  /** Lay the piece that was picked first against the other; null where there are not two. */
  onLay: (() => void) | null;
}) {
  const { found, kept, onScale, mayKeep, onLay } = props;
  const setRule = useHand((held) => held.setRule);
  const [text, setText] = useState("");
  const should = Number(text.replace(",", "."));
  const factor = found && should > 0 && found.value > 0 ? should / found.value : null;
  return (
    <Row>
      {found?.unit !== "°" && onScale && (
        <form
          className="flex items-center gap-1.5"
          onSubmit={(event) => {
            event.preventDefault();
            if (factor) onScale(factor);
          }}
        >
          <label className="flex items-center gap-1.5">
            should be
            <input
              inputMode="decimal"
              aria-label="Should be, mm"
              disabled={!found}
              className={`${inputLook} !w-20 !py-1`}
              value={text}
              onChange={(event) => setText(event.target.value)}
            />
            mm
          </label>
          <Button type="submit" look="primary" className="!py-1" disabled={!factor}>
            Scale the model to it
          </Button>
          {factor && <span className="text-ink-2">{factor.toPrecision(5)} times, all pieces</span>}
        </form>
      )}
      <span className="ml-auto flex gap-2">
        {onLay && (
          <Button
            className="!py-1"
            title="The piece picked first is turned by as little as can be, and moved until the two faces meet"
            onClick={onLay}
          >
            Lay face to face
          </Button>
        )}
        {mayKeep && (
          <Button
            className="!py-1"
            disabled={!found || kept.keep.isPending}
            onClick={() => {
              if (found) kept.keep.mutate(found, { onSuccess: () => setRule({ picks: [] }) });
            }}
          >
            Keep it
          </Button>
        )}
        <Button
          look="quiet"
          className="!py-1"
          disabled={!found}
          onClick={() => setRule({ picks: [] })}
        >
          Anew
        </Button>
      </span>
    </Row>
  );
}

/** Measures that are kept with the revision: each can be shown alone, named, let go. */
function KeptRows({ kept, mayKeep }: { kept: Props["kept"]; mayKeep: boolean }) {
  const problem = [kept.keep, kept.name, kept.letGo].find((one) => one.isError)?.error;
  return (
    <>
      {problem && <Complaint>{problem.message}</Complaint>}
      {kept.kept.length > 0 && (
        <ul aria-label="Kept measures" className="max-h-24 divide-y divide-rule overflow-auto">
          {kept.kept.map((one) => (
            <KeptRow key={one.id} one={one} kept={kept} mayKeep={mayKeep} />
          ))}
        </ul>
      )}
    </>
  );
}

function KeptRow(props: { one: KeptMeasure; kept: Props["kept"]; mayKeep: boolean }) {
  const { one, kept, mayKeep } = props;
  const shown = useHand((held) => held.rule.shown === one.id);
  const setRule = useHand((held) => held.setRule);
  const [name, setName] = useState<string | null>(null);
  const store = () => {
    if (name === null || name.trim() === one.name) setName(null);
    // what was typed stays until the server has it
    else kept.name.mutate({ id: one.id, name: name.trim() }, { onSettled: () => setName(null) });
  };
  return (
    <li aria-busy={name !== null} className="flex items-center gap-2 py-0.5">
      <button
        type="button"
        aria-pressed={shown}
        className={`w-24 text-left ${shown ? "font-[650]" : ""} hover:underline`}
        title="Show this one alone"
        onClick={() => setRule({ shown: shown ? null : one.id, picks: [] })}
      >
        {valueText(one.kind, one.value)}
      </button>
      <input
        aria-label={`Name of ${valueText(one.kind, one.value)}`}
        className="w-36 border-b border-transparent bg-transparent px-1 hover:border-rule focus:border-slate"
        placeholder="name"
        maxLength={80}
        readOnly={!mayKeep}
        value={name ?? one.name}
        onChange={(event) => setName(event.target.value)}
        onBlur={store}
        onKeyDown={(event) => {
          if (event.key === "Enter") event.currentTarget.blur();
        }}
      />
      <span className="min-w-0 flex-1 truncate text-ink-2" title={one.between}>
        {one.between}, {one.by}
      </span>
      {mayKeep && (
        <Button
          look="quiet"
          className="!py-0"
          aria-label={`Let go of ${valueText(one.kind, one.value)}`}
          onClick={() => kept.letGo.mutate(one.id)}
        >
          Let go
        </Button>
      )}
    </li>
  );
}
