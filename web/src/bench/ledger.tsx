import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useRef } from "react";
import type { Operation } from "../api/client";
import { Reason } from "../ui/reason";
import { Remedy, type OnRun } from "./remedy";
import type { Row } from "./rows";

type Props = {
  rows: Row[];
  chosen: number | null;
  onChoose: (row: Row) => void;
  operations: Operation[];
  /** Null when nothing can be run now. */
  onRun: OnRun | null;
  onAccept: ((kind: string, reason: string) => void) | null;
  /** Reasons for which kinds were accepted. */
  accepted: Map<string, string>;
};

/** The findings of the open question, numbered; the chosen one shows its remedies. */
export function Ledger(props: Props) {
  const { rows, chosen, onChoose } = props;
  const box = useRef<HTMLDivElement>(null);
  const list = useVirtualizer({
    count: rows.length,
    getScrollElement: () => box.current,
    estimateSize: () => 52,
    overscan: 10,
    getItemKey: (i) => rows[i]!.mark,
  });
  useEffect(() => {
    const at = rows.findIndex((row) => row.number === chosen);
    if (at >= 0) list.scrollToIndex(at, { align: "auto" });
  }, [chosen, rows, list]);
  return (
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
          return (
            <div
              key={line.key}
              role="listitem"
              ref={list.measureElement}
              data-index={line.index}
              style={{ top: line.start }}
              className={`absolute inset-x-0 border-b border-l-3 border-b-rule ${
                on ? "border-l-blue bg-sheet" : "border-l-transparent"
              }`}
            >
              <button
                type="button"
                aria-expanded={on}
                data-finding={row.number}
                onClick={() => onChoose(row)}
                className="grid w-full grid-cols-[30px_1fr_auto] gap-x-2 px-3 py-2 text-left hover:bg-paper-2"
              >
                <b className="font-[650]">{row.number}</b>
                <span className="font-[650]">{row.spot.title}</span>
                <span className="whitespace-nowrap text-ink-2">{row.spot.measure}</span>
              </button>
              {on && <Remedies row={row} {...props} />}
            </div>
          );
        })}
      </div>
    </div>
  );
}

function Remedies({ row, operations, onRun, onAccept, accepted }: Props & { row: Row }) {
  const fitting = operations.filter((one) => one.answers.includes(row.finding.kind));
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
      {row.finding.severity === "call" && (
        <Accept
          key={row.finding.kind}
          reason={accepted.get(row.finding.kind)}
          onAccept={onAccept && ((reason) => onAccept(row.finding.kind, reason))}
        />
      )}
    </div>
  );
}

/** A person's decision to take all of a kind as it is, with the reason. */
function Accept(props: {
  reason: string | undefined;
  onAccept: ((reason: string) => void) | null;
}) {
  if (props.reason) return <p className="mt-2">Accepted: “{props.reason}”</p>;
  return (
    <Reason
      label="Reason to accept it as it is"
      placeholder="Accept as it is, because…"
      says="Accept"
      className="mt-2"
      onReason={props.onAccept}
    />
  );
}
