import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useMemo, useRef, useState } from "react";
import type { Material, Operation, Piece, Report } from "../api/client";
import { count, length, plural, sizeOf, volume } from "../ui/format";
import { tintOf } from "../viewer/materials";
import { isHidden } from "../viewer/shells";
import { shellsWithin } from "../inhand/carry";
import { useHand } from "../inhand/hand";
import { inputLook } from "../ui/field";
import type { EarlierState } from "../ui/operation-fields";
import { Reason } from "../ui/reason";
import { ALL_PIECES, listedPieces, PieceFilter } from "./piece-filter";
import { useBench } from "./store";
import { type OnOperate, TakenPieces, type WantedItem } from "./taken-pieces";
import type { Work } from "./use-work";

/** A piece as it lies: under the one around it. */
export type Nested = Piece & { depth: number };

/** What people call the pieces, by number. */
export type PieceNames = Readonly<Record<string, string>>;

const NO_NAMES: PieceNames = {};

/** Pieces nested as they lie, each group with the largest first, called as people call them. */
export function nestedPieces(found: readonly Piece[] = [], names: PieceNames = NO_NAMES): Nested[] {
  const pieces = found.map((one) => ({ ...one, name: names[one.number] ?? one.name }));
  const within = new Map<number, Piece[]>();
  const known = new Set(pieces.map((one) => one.shell));
  for (const one of pieces) {
    const parent = known.has(one.within) ? one.within : -1;
    const group = within.get(parent);
    if (group) group.push(one);
    else within.set(parent, [one]);
  }
  const list: Nested[] = [];
  const walk = (parent: number, depth: number) => {
    const group = within.get(parent) ?? [];
    for (const one of group.sort((a, b) => b.longest_mm - a.longest_mm)) {
      list.push({ ...one, depth });
      walk(one.shell, depth + 1);
    }
  };
  walk(-1, 0);
  return list;
}

/** The outermost shell that each one lies in, by shell; itself where it lies in none. */
export function rootsOf(pieces: readonly Piece[]): number[] {
  const within = new Map(pieces.map((one) => [one.shell, one.within]));
  const roots: number[] = [];
  for (const { shell } of pieces) {
    let root = shell;
    while ((within.get(root) ?? -1) >= 0) root = within.get(root)!;
    roots[shell] = root;
  }
  return roots;
}

/** The number of the piece that each shell is of, or lies in. */
export function numbersOf(pieces: readonly Piece[]): (shell: number) => number {
  const roots = rootsOf(pieces);
  const numbers = new Map(pieces.map((one) => [one.shell, one.number]));
  return (shell) => numbers.get(roots[shell] ?? shell) ?? shell + 1;
}

/** So many pieces are found by the eye. */
const FEW = 8;

export const pieceName = (one: Piece) =>
  [`Piece ${one.number}`, one.name, one.what].filter(Boolean).join(", ");

type Props = {
  /** Key of the item. */
  item: number;
  report: Report;
  /** Numbers of the pieces that stay apart. */
  apart: readonly number[];
  /** What people call the pieces. */
  names?: PieceNames;
  /** Call one otherwise; null when one may not. */
  onName?: ((number: number, name: string) => Promise<unknown>) | null;
  /** Decide that one does, or does no more; null when nothing can be decided now. */
  onApart: Work["setApart"] | null;
  onLookAt: (shell: number) => void;
  /** Take the faces of some shells into the choice. */
  onChooseFaces: (shells: readonly number[]) => void;
  /** Run an operation on some pieces, by their numbers; null when nothing can be run now. */
  onOperate: OnOperate | null;
  operations?: readonly Operation[];
  /** Other states of the model, the first one first. */
  earlier?: readonly EarlierState[];
  material?: Material;
  /** Measure between two pieces; null when one may not. */
  onBetween?: ((pieces: readonly [number, number]) => void) | null;
  /** Make an item of some pieces, or one of each; null when that cannot be now. */
  onDerive?: ((pieces: readonly number[], wanted: WantedItem) => Promise<unknown>) | null;
};

const NO_OPERATIONS: readonly Operation[] = [];

/** The shells of the model, nested, each with what it is; out of sight or alone at will. */
export function Pieces({
  item,
  report,
  apart,
  names,
  onName = null,
  onApart,
  onLookAt,
  onChooseFaces,
  onOperate,
  operations = NO_OPERATIONS,
  material,
  onDerive = null,
  earlier,
  onBetween = null,
}: Props) {
  const sight = useBench((bench) => bench.sight);
  const piece = useBench((bench) => bench.piece);
  const parting = useBench((bench) => bench.parting);
  const { choosePiece, hide, showOnly, showAll, part } = useBench.getState();
  const { carryPieces } = useHand.getState();
  const hideAll = useBench((bench) => bench.hideAll);
  const every = useMemo(() => nestedPieces(report.pieces, names), [report, names]);
  const [listing, setListing] = useState(ALL_PIECES);
  const list = useMemo(() => listedPieces(every, listing), [every, listing]);
  const [taken, setTaken] = useState<ReadonlySet<number>>(new Set());
  const takenNumbers = every
    .filter((one) => taken.has(one.shell))
    .map((one) => one.number)
    .sort((a, b) => a - b);
  const takeOne = (shell: number) => {
    const next = new Set(taken);
    if (!next.delete(shell)) next.add(shell);
    setTaken(next);
  };
  // another revision has other shells
  useEffect(() => setTaken(new Set()), [report]);
  const box = useRef<HTMLDivElement>(null);
  const lines = useVirtualizer({
    count: list.length,
    getScrollElement: () => box.current,
    estimateSize: () => 44,
    overscan: 8,
    getItemKey: (i) => list[i]!.shell,
  });
  useEffect(() => {
    const at = list.findIndex((one) => one.shell === piece);
    if (at >= 0) lines.scrollToIndex(at, { align: "auto" });
  }, [piece, list, lines]);
  const away = sight.only !== null || sight.hidden.size > 0;
  return (
    <section
      aria-label="Pieces"
      className="flex max-h-[50%] shrink-0 flex-col border-t border-rule"
    >
      <header className="flex items-baseline justify-between px-3.5 pb-1 pt-3">
        <h3 className="font-semibold text-ink-2">{plural(report.shells, "piece")}</h3>
        {away && (
          <button type="button" onClick={showAll} className="text-blue hover:underline">
            Show all <kbd className="font-sans text-small text-ink-2">E</kbd>
          </button>
        )}
      </header>
      {every.filter((one) => one.within < 0).length > 1 && <Spread />}
      {every.length > FEW && <PieceFilter listing={listing} onChange={setListing} />}
      <div ref={box} role="list" className="min-h-0 overflow-auto pb-1">
        <div className="relative" style={{ height: lines.getTotalSize() }}>
          {lines.getVirtualItems().map((line) => {
            const one = list[line.index]!;
            const on = one.shell === piece;
            const gone = isHidden(sight, one.shell);
            return (
              <div
                key={line.key}
                role="listitem"
                ref={lines.measureElement}
                data-index={line.index}
                style={{ top: line.start }}
                className={`absolute inset-x-0 border-l-3 ${
                  on ? "border-l-blue bg-sheet" : "border-l-transparent"
                }`}
              >
                <input
                  type="checkbox"
                  aria-label={`Take piece ${one.number}`}
                  className="absolute right-2 top-1.5 z-10"
                  checked={taken.has(one.shell)}
                  onChange={() => takeOne(one.shell)}
                />
                <button
                  type="button"
                  aria-pressed={on}
                  data-piece={one.number}
                  title={`${sizeOf(one.sides_mm)}, ${plural(one.triangles, "triangle")}`}
                  onClick={() => {
                    choosePiece(on ? null : one.shell);
                    if (!on) onLookAt(one.shell);
                  }}
                  style={{ paddingLeft: 11 + Math.min(one.depth, 4) * 13 }}
                  className={`block w-full py-1 pr-2 text-left hover:bg-paper-2 ${
                    gone ? "text-ink-2" : ""
                  }`}
                >
                  <span className="flex items-center gap-1.5 pr-5">
                    <span
                      aria-hidden="true"
                      className="h-3 w-3 rounded-[2px] border border-ink-2"
                      style={{ background: gone ? "transparent" : tintOf(one.shell) }}
                    />
                    <b className="font-[650]">{one.number}</b>
                    <span className="truncate" title={one.name || undefined}>
                      {one.name || one.what}
                    </span>
                    {(gone || apart.includes(one.number)) && (
                      <i className="ml-auto whitespace-nowrap pl-1 text-small">
                        {[apart.includes(one.number) && "apart", gone && "hidden"]
                          .filter(Boolean)
                          .join(", ")}
                      </i>
                    )}
                  </span>
                  <span className="block pl-[18px] text-small text-ink-2">
                    {one.name && `${one.what}, `}
                    {one.what === "open sheet" ? "no volume" : volume(Math.abs(one.volume_mm3))},
                    longest side {length(one.longest_mm)}
                  </span>
                </button>
                {on && (
                  <div className="flex flex-wrap gap-2 pb-2 pl-[29px] pr-3">
                    <Small
                      pressed={gone && sight.only === null}
                      hint="X"
                      onClick={() => hide(one.shell)}
                    >
                      {gone ? "Show" : "Hide"}
                    </Small>
                    <Small
                      pressed={sight.only === one.shell}
                      hint="Y"
                      onClick={() => showOnly(one.shell)}
                    >
                      Only this
                    </Small>
                    {list.length > 1 && (
                      <Small
                        pressed={apart.includes(one.number)}
                        hint="-"
                        onClick={() => part(!parting)}
                      >
                        Stays apart
                      </Small>
                    )}
                    {onName && <Name key={one.number} piece={one} onName={onName} />}
                    {list.length > 1 && parting && (
                      <Reason
                        about={`${item} apart ${one.number}`}
                        label="Reason"
                        placeholder={
                          apart.includes(one.number)
                            ? "United again, because…"
                            : "Stays apart, because…"
                        }
                        says={apart.includes(one.number) ? "Take back" : "Keep apart"}
                        className="w-full"
                        onReason={
                          onApart &&
                          ((reason) =>
                            onApart(one.number, !apart.includes(one.number), reason).then(() =>
                              part(false),
                            ))
                        }
                      />
                    )}
                  </div>
                )}
              </div>
            );
          })}
        </div>
      </div>
      <TakenPieces
        taken={takenNumbers}
        of={report.shells}
        operations={operations}
        material={material}
        onHide={() => hideAll(taken)}
        onOnly={() => hideAll(every.map((one) => one.shell).filter((shell) => !taken.has(shell)))}
        onChooseFaces={() => onChooseFaces([...taken])}
        onOperate={onOperate}
        onDerive={onDerive && ((wanted) => onDerive(takenNumbers, wanted))}
        onBetween={onBetween && (() => onBetween([takenNumbers[0]!, takenNumbers[1]!]))}
        onLetGo={() => setTaken(new Set())}
        onCarry={() => carryPieces(takenNumbers, shellsWithin(report.pieces, taken))}
        earlier={earlier}
      />
      {report.shells > every.length && (
        <p className="border-t border-rule px-3.5 py-1.5 text-small text-ink-2">
          {every.length
            ? `The ${count(every.length)} largest are listed.`
            : "Examined before pieces were listed."}
        </p>
      )}
    </section>
  );
}

/** Pulls the pieces apart to look between them; nothing of the model moves. */
function Spread() {
  const spread = useBench((bench) => bench.spread);
  const pull = useBench((bench) => bench.pull);
  return (
    <label
      className="flex items-center gap-2 px-3.5 pb-1.5 text-ink-2"
      title="Only to look between them: nothing of the model moves"
    >
      pulled apart
      <input
        type="range"
        min={0}
        max={1}
        step={0.02}
        className="min-w-0 flex-1 accent-blue"
        value={spread}
        onChange={(event) => pull(Number(event.target.value))}
      />
    </label>
  );
}

/** What a piece is called, to be called otherwise. */
function Name(props: {
  piece: Nested;
  onName: (number: number, name: string) => Promise<unknown>;
}) {
  const { piece, onName } = props;
  const [typed, setTyped] = useState<string | null>(null);
  if (typed === null) {
    return (
      <button
        type="button"
        className="rounded border border-rule bg-paper px-2 py-0.5 hover:bg-paper-2"
        onClick={() => setTyped(piece.name)}
      >
        {piece.name ? "Call it otherwise" : "Name it"}
      </button>
    );
  }
  return (
    <form
      className="flex w-full gap-1.5"
      onSubmit={(event) => {
        event.preventDefault();
        void onName(piece.number, typed.trim()).then(() => setTyped(null));
      }}
      onKeyDown={(event) => {
        if (event.key === "Escape") setTyped(null);
      }}
    >
      <input
        aria-label={`Name of piece ${piece.number}`}
        className={`${inputLook} min-w-0 flex-1 !py-0.5`}
        maxLength={80}
        // whoever asks for it types next
        autoFocus
        value={typed}
        onChange={(event) => setTyped(event.target.value)}
      />
      <button type="submit" className="rounded border border-rule bg-paper px-2">
        Keep
      </button>
    </form>
  );
}

function Small(props: { pressed: boolean; hint: string; onClick: () => void; children: string }) {
  return (
    <button
      type="button"
      aria-pressed={props.pressed}
      onClick={props.onClick}
      className={`rounded border border-rule px-2 py-0.5 hover:bg-paper-2 ${
        props.pressed ? "bg-paper-2 font-[650]" : "bg-paper"
      }`}
    >
      {props.children}{" "}
      <kbd className="font-sans text-small font-normal text-ink-2">{props.hint}</kbd>
    </button>
  );
}
