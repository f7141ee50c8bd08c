import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useMemo, useRef } from "react";
import type { Cover, Item, Operation } from "../api/client";
import { count, timeOf } from "../ui/format";
import { Reason } from "../ui/reason";
import { ListingLine, TakenRows } from "./listing";
import { Remedy, type OnRun } from "./remedy";
import { listedOf, type Row } from "./rows";
import { useBench } from "./store";
import { TakeBack } from "./take-back";
import type { Work } from "./use-work";

type Props = {
  item: number;
  rows: Row[];
  chosen: number | null;
  onChoose: (row: Row) => void;
  operations: Operation[];
  /** Null when nothing can be run now. */
  onRun: OnRun | null;
  onAccept: Work["accept"] | null;
  onWithdraw: Work["withdraw"] | null;
  /** What accepts a place, if anything does. */
  coverOf: (row: Row) => Cover | null;
};

/** So many rows are seen at once; a line to narrow them would only take their room. */
const FEW = 7;

/** What accepts a place, looked up once for all of them. */
export function coversOf(covered: Item["covered"]): (row: Row) => Cover | null {
  const by = new Map(covered.map((one) => [`${one.kind} ${one.place}`, one]));
  return ({ finding, place }) => by.get(`${finding.kind} ${place}`) ?? null;
}

/** The findings of the open question, numbered; the chosen one shows its remedies. */
export function Ledger(props: Props) {
  const { rows: every, chosen, onChoose, coverOf } = props;
  const listing = useBench((bench) => bench.listing);
  const taken = useBench((bench) => bench.taken);
  const takeRow = useBench((bench) => bench.takeRow);
  const rows = useMemo(() => listedOf(every, listing), [every, listing]);
  const box = useRef<HTMLDivElement>(null);
  const list = useVirtualizer({
    count: rows.length,
    getScrollElement: () => box.current,
    estimateSize: () => 52,
    overscan: 10,
    // the same place keeps its line when others come or go
    getItemKey: (i) => `${rows[i]!.finding.kind} ${rows[i]!.place}`,
  });
  useEffect(() => {
    const at = rows.findIndex((row) => row.number === chosen);
    if (at >= 0) list.scrollToIndex(at, { align: "auto" });
  }, [chosen, rows, list]);
  return (
    <>
      {every.length > FEW && <ListingLine rows={every} listed={rows} />}
      <div
        ref={box}
        role="list"
        aria-label="Findings"
        className="min-h-0 flex-1 overflow-auto border-t border-rule"
      >
        <div style={{ height: list.getTotalSize() }} className="relative">
          {list.getVirtualItems().map((line) => {
            const row = rows[line.index]!;
            const on = row.number === chosen;
            const cover = coverOf(row);
            const accepted = cover !== null;
            return (
              <div
                key={line.key}
                role="listitem"
                ref={list.measureElement}
                data-index={line.index}
                data-accepted={accepted}
                style={{ top: line.start }}
                className={`absolute inset-x-0 border-b border-l-3 border-b-rule ${
                  on ? "border-l-blue bg-sheet" : "border-l-transparent"
                }`}
              >
                {every.length > 1 && (
                  <input
                    type="checkbox"
                    aria-label={`Take finding ${row.number}`}
                    className="absolute left-1 top-2.5 z-10"
                    checked={taken.has(row.number)}
                    onChange={() => takeRow(row.number)}
                  />
                )}
                <button
                  type="button"
                  aria-expanded={on}
                  data-finding={row.number}
                  onClick={() => onChoose(row)}
                  className="grid w-full grid-cols-[30px_1fr_auto] gap-x-2 py-2 pl-5 pr-3 text-left hover:bg-paper-2"
                >
                  <b className="font-[650]">{row.number}</b>
                  <span className={accepted ? "text-ink-2" : "font-[650]"}>{row.spot.title}</span>
                  <span className="whitespace-nowrap text-ink-2">{row.spot.measure}</span>
                  {cover && (
                    <span className="col-start-2 text-small text-ink-2">
                      accepted by {cover.by || "the shop"}, {timeOf(cover.at)}
                    </span>
                  )}
                </button>
                {on && <Remedies {...props} row={row} />}
              </div>
            );
          })}
          {!rows.length && every.length > 0 && (
            <p className="px-4 py-3 text-ink-2">None of them is so large, or of that kind.</p>
          )}
        </div>
      </div>
      <TakenRows rows={every} taken={taken} operations={props.operations} onRun={props.onRun} />
    </>
  );
}

function Remedies(props: Props & { row: Row }) {
  const { row, operations, onRun } = props;
  const fitting = operations.filter((one) => one.answers.includes(row.finding.kind));
  const cover = props.coverOf(row);
  return (
    <div className="pb-3 pl-[50px] pr-3">
      <p className="text-ink-2">{row.finding.text}</p>
      {fitting.map((operation) => (
        <Remedy
          key={`${operation.name} ${row.finding.kind}`}
          row={row}
          operation={operation}
          onRun={onRun}
        />
      ))}
      {row.finding.kind === "overlapping-shells" && !cover && (
        <p className="mt-2 text-ink-2">
          If they are meant to overlap, let one of them stay apart: choose it under Pieces.
        </p>
      )}
      {cover ? (
        <Accepted {...props} cover={cover} />
      ) : (
        row.finding.severity === "call" && <Accept {...props} />
      )}
    </div>
  );
}

/** What a decision about one place is kept under while it is written. */
const about = (item: number, what: string, { finding, spot }: Row) =>
  `${item} ${what} ${finding.kind} ${spot.title}`;

/** A person's decision to take a place as it is, or all that are listed, with the reason. */
function Accept({ item, row, onAccept }: Props & { row: Row }) {
  const { kind, spots } = row.finding;
  const to = (places: number[] | null) =>
    onAccept && ((reason: string) => onAccept(kind, places, spots.length, reason));
  return (
    <Reason
      about={about(item, "accept", row)}
      label="Reason to accept it as it is"
      placeholder="Accept as it is, because…"
      says={spots.length > 1 ? "Accept this place" : "Accept"}
      className="mt-2"
      onReason={to([row.place])}
      more={
        spots.length > 1
          ? { says: `Accept all ${count(spots.length)} listed`, onReason: to(null) }
          : null
      }
    />
  );
}

/** Who accepted a place and why; it can be taken back. */
function Accepted({ item, row, cover, onWithdraw }: Props & { row: Row; cover: Cover }) {
  return (
    <div className="mt-2">
      <p>
        Accepted by {cover.by || "the shop"}, {timeOf(cover.at)}: “{cover.reason}”
      </p>
      <TakeBack about={about(item, "withdraw", row)} cover={cover} onWithdraw={onWithdraw} />
    </div>
  );
}
