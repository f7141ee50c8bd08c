import { useVirtualizer } from "@tanstack/react-virtual";
import { useEffect, useImperativeHandle, useRef, type Ref } from "react";
import type { ItemLine, Question } from "../api/client";
import { isOpen } from "../api/queries";
import { Bar } from "../ui/progress";
import { CAULK } from "../ui/seam-look";
import { type Asked, sortedBy } from "./asked";
import type { Column } from "./columns";
import { nextWords } from "./next-words";
import type { Rows } from "./queries";

const ROW = 46;
const SEAM = "minmax(244px,1.6fr)";
const NEXT = "minmax(104px,1.4fr)";

export type Grid = { reveal: (index: number) => void };

type Props = {
  rows: Rows;
  columns: Column[];
  questions: Question[];
  sort: Asked["sort"];
  onSort: (sort: Asked["sort"]) => void;
  /** The row that keys act on. */
  cursor: number;
  onCursor: (index: number) => void;
  taken: ReadonlyMap<number, ItemLine>;
  onTake: (index: number, upTo: boolean) => void;
  onTakeAll: () => void;
  onOpen: (item: ItemLine) => void;
  /** A row is come to, by the pointer or by keys; null where it is left. */
  onPoint: (item: ItemLine | null) => void;
  onInSight: (first: number, last: number) => void;
  ref: Ref<Grid>;
};

/** The items, one line each; only those in sight are drawn and fetched. */
export function ItemTable(props: Props) {
  const { rows, columns, cursor, taken, onInSight } = props;
  const box = useRef<HTMLDivElement>(null);
  const total = rows.count ?? 0;
  const drawn = useVirtualizer({
    count: total,
    getScrollElement: () => box.current,
    estimateSize: () => ROW,
    overscan: 10,
    // the head stays over the rows
    scrollPaddingStart: ROW,
  });
  useImperativeHandle(props.ref, () => ({ reveal: (index) => drawn.scrollToIndex(index) }));
  const lines = drawn.getVirtualItems();
  const first = lines[0]?.index ?? 0;
  const last = lines.at(-1)?.index ?? 0;
  useEffect(() => onInSight(first, last), [first, last, onInSight]);
  const template = ["28px", ...columns.map((one) => one.width), SEAM, NEXT].join(" ");
  return (
    <div
      ref={box}
      role="grid"
      aria-label="Items"
      aria-rowcount={total + 1}
      aria-multiselectable
      className="min-h-0 flex-1 overflow-auto"
    >
      <Head {...props} template={template} all={total > 0 && taken.size >= total} />
      <div style={{ height: drawn.getTotalSize() }} className="relative min-w-[860px]">
        {lines.map((line) => {
          const item = rows.at(line.index);
          return item ? (
            <Row
              key={item.id}
              item={item}
              index={line.index}
              top={line.start}
              template={template}
              columns={columns}
              on={line.index === cursor}
              taken={taken.has(item.id)}
              onCursor={() => props.onCursor(line.index)}
              onPoint={props.onPoint}
              onTake={(upTo) => props.onTake(line.index, upTo)}
              onOpen={() => props.onOpen(item)}
            />
          ) : (
            <div
              key={line.key}
              role="row"
              style={{ top: line.start, height: ROW }}
              className="absolute inset-x-0 border-b border-b-paper-3 px-5 py-3 text-ink-2"
            >
              <span role="gridcell">…</span>
            </div>
          );
        })}
      </div>
    </div>
  );
}

function Head(props: Props & { template: string; all: boolean }) {
  const { columns, questions, sort, onSort, template, all, taken, onTakeAll } = props;
  return (
    <div
      role="row"
      aria-rowindex={1}
      style={{ gridTemplateColumns: template }}
      className="sticky top-0 z-10 grid min-w-[860px] items-end gap-x-2 border-b border-l-3 border-b-ink-2 border-l-transparent bg-paper pb-2 pl-[17px] pr-5 pt-1 font-semibold text-ink-2"
    >
      <span role="columnheader">
        <input
          type="checkbox"
          aria-label="Take all"
          checked={all}
          ref={(box) => {
            if (box) box.indeterminate = taken.size > 0 && !all;
          }}
          onChange={onTakeAll}
        />
      </span>
      {columns.map((one) => (
        <Sorter key={one.key} column={one.key} right={one.right} sort={sort} onSort={onSort}>
          {one.title}
        </Sorter>
      ))}
      <span role="columnheader" aria-sort={ariaSort("seam", sort)} className="flex gap-1.5">
        {[...questions.map((q) => q.title), "Release"].map((head) => (
          <button
            key={head}
            type="button"
            title="Sort by how far the items are"
            onClick={() => onSort(sortedBy("seam", sort))}
            className="min-w-0 flex-1 text-left text-small leading-tight hover:text-ink hover:underline"
          >
            {head}
          </button>
        ))}
        <span className="w-2 text-blue">{arrow("seam", sort)}</span>
      </span>
      <Sorter column="next" sort={sort} onSort={onSort}>
        Next
      </Sorter>
    </div>
  );
}

const arrow = (column: string, sort: Asked["sort"]) =>
  sort === column ? "▴" : sort === `-${column}` ? "▾" : "";

const ariaSort = (column: string, sort: Asked["sort"]) =>
  sort === column ? "ascending" : sort === `-${column}` ? "descending" : "none";

function Sorter(props: {
  column: string;
  right?: boolean;
  sort: Asked["sort"];
  onSort: Props["onSort"];
  children: string;
}) {
  const { column, sort } = props;
  const told = arrow(column, sort);
  return (
    <span
      role="columnheader"
      aria-sort={ariaSort(column, sort)}
      className={props.right ? "text-right" : ""}
    >
      <button
        type="button"
        onClick={() => props.onSort(sortedBy(column, sort))}
        className={`hover:text-ink hover:underline ${told ? "text-blue" : ""}`}
      >
        {props.children}
        {told && ` ${told}`}
      </button>
    </span>
  );
}

type RowProps = {
  item: ItemLine;
  index: number;
  top: number;
  template: string;
  columns: Column[];
  on: boolean;
  taken: boolean;
  onCursor: () => void;
  onPoint: (item: ItemLine | null) => void;
  onTake: (upTo: boolean) => void;
  onOpen: () => void;
};

function Row(props: RowProps) {
  const { item, index, top, template, columns, on, taken } = props;
  const next = nextWords(item);
  return (
    <div
      role="row"
      id={`item-${item.id}`}
      aria-rowindex={index + 2}
      aria-selected={taken}
      tabIndex={on ? 0 : -1}
      onFocus={() => {
        props.onCursor();
        props.onPoint(item);
      }}
      onPointerEnter={() => props.onPoint(item)}
      onPointerLeave={() => props.onPoint(null)}
      onClick={props.onOpen}
      style={{ top, height: ROW, gridTemplateColumns: template }}
      className={`absolute inset-x-0 grid cursor-pointer -outline-offset-2 items-center gap-x-2 border-b border-l-3 border-b-paper-3 pl-[17px] pr-5 ${
        taken ? "border-l-blue" : "border-l-transparent"
      } ${on || taken ? "bg-sheet" : "hover:bg-paper-2"}`}
    >
      <span role="gridcell" className="flex">
        <input
          type="checkbox"
          aria-label={`Take ${item.name}`}
          checked={taken}
          tabIndex={-1}
          onClick={(event) => {
            event.stopPropagation();
            props.onTake(event.shiftKey);
          }}
          onChange={() => undefined}
        />
      </span>
      {columns.map((one) => (
        <span
          role="gridcell"
          key={one.key}
          className={`min-w-0 truncate ${one.right ? "text-right" : ""}`}
        >
          {one.cell(item)}
        </span>
      ))}
      <SeamMarks item={item} />
      <span role="gridcell" className="line-clamp-2 leading-tight" title={next}>
        {next}
      </span>
    </div>
  );
}

function SeamMarks({ item }: { item: ItemLine }) {
  if (isOpen(item.job)) {
    return (
      <span role="gridcell">
        <Bar fraction={item.job?.fraction ?? 0} label={`${item.name} in work`} />
      </span>
    );
  }
  return (
    <span
      role="gridcell"
      aria-label={item.seam.map((s) => `${s.title}: ${s.state}`).join(", ")}
      className="flex gap-1.5"
    >
      {item.seam.map((s) => (
        <span key={s.question} title={`${s.title}: ${s.state}, ${s.text}`} className="flex-1 py-2">
          <span className={`block h-1.5 ${CAULK[s.state]}`} />
        </span>
      ))}
      <span className="w-2" />
    </span>
  );
}
