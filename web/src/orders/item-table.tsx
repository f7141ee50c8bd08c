import { useVirtualizer } from "@tanstack/react-virtual";
import { useRef } from "react";
import type { ItemLine, Question } from "../api/client";
import { isOpen } from "../api/queries";
import { count, due } from "../ui/format";
import { Bar } from "../ui/progress";
import { CAULK } from "../ui/seam-look";
import { nextWord } from "./filters";

const ROW = 46;
const COLUMNS = "minmax(128px,1fr) minmax(180px,1.5fr) 116px 44px 92px 252px minmax(140px,1.3fr)";

type Props = {
  items: ItemLine[];
  questions: Question[];
  chosen: number | null;
  onChoose: (id: number) => void;
  onOpen: (item: ItemLine) => void;
};

/** All items, one line each; only those in sight are drawn. */
export function ItemTable({ items, questions, chosen, onChoose, onOpen }: Props) {
  const box = useRef<HTMLDivElement>(null);
  const rows = useVirtualizer({
    count: items.length,
    getScrollElement: () => box.current,
    estimateSize: () => ROW,
    overscan: 12,
  });
  const heads = [...questions.map((q) => q.title), "Release"];
  return (
    <div role="table" aria-label="Items" className="flex min-h-0 flex-1 flex-col">
      <div
        role="row"
        style={{ gridTemplateColumns: COLUMNS }}
        className="grid gap-x-4 border-b border-ink-2 px-5 pb-2 font-semibold text-ink-2"
      >
        {["Order", "Item", "Material"].map((head) => (
          <span role="columnheader" key={head}>
            {head}
          </span>
        ))}
        <span role="columnheader" className="text-right">
          Qty
        </span>
        <span role="columnheader">Due</span>
        <span role="columnheader" className="flex gap-1.5">
          {heads.map((head) => (
            <span key={head} className="flex-1">
              {head}
            </span>
          ))}
        </span>
        <span role="columnheader">Next</span>
      </div>
      <div ref={box} className="min-h-0 flex-1 overflow-auto">
        <div style={{ height: rows.getTotalSize() }} className="relative">
          {rows.getVirtualItems().map((row) => {
            const item = items[row.index]!;
            return (
              <Row
                key={item.id}
                item={item}
                top={row.start}
                on={item.id === chosen}
                onChoose={() => onChoose(item.id)}
                onOpen={() => onOpen(item)}
              />
            );
          })}
        </div>
      </div>
    </div>
  );
}

type RowProps = {
  item: ItemLine;
  top: number;
  on: boolean;
  onChoose: () => void;
  onOpen: () => void;
};

function Row({ item, top, on, onChoose, onOpen }: RowProps) {
  const when = due(item.order.due);
  const next = nextWord(item);
  return (
    <div
      role="row"
      id={`item-${item.id}`}
      aria-selected={on}
      tabIndex={0}
      onFocus={onChoose}
      onClick={onOpen}
      style={{ top, height: ROW, gridTemplateColumns: COLUMNS }}
      className={`absolute inset-x-0 grid cursor-pointer items-center gap-x-4 border-b border-l-3 border-b-paper-3 pl-[17px] pr-5 ${
        on ? "border-l-blue bg-sheet" : "border-l-transparent hover:bg-paper-2"
      }`}
    >
      <span role="cell" className="min-w-0">
        <b className="block font-[650]">{item.order.number}</b>
        <span className="block truncate text-small text-ink-2">{item.order.customer_name}</span>
      </span>
      <span role="cell" className="min-w-0">
        <b className="block truncate font-[650]">{item.name}</b>
        <span className="block truncate text-small text-ink-2">
          {item.file_name}
          {item.triangles !== null && `, ${count(item.triangles)} triangles`}
        </span>
      </span>
      <span role="cell" className="truncate">
        {item.material_name}
      </span>
      <span role="cell" className="text-right">
        {count(item.quantity)}
      </span>
      <span role="cell" className={when.late ? "font-[650] text-rust" : ""}>
        {when.text}
        {when.late && " (late)"}
      </span>
      <SeamMarks item={item} />
      <span role="cell" className="line-clamp-2 leading-tight" title={next}>
        {next}
      </span>
    </div>
  );
}

function SeamMarks({ item }: { item: ItemLine }) {
  if (isOpen(item.job)) {
    return (
      <span role="cell">
        <Bar fraction={item.job?.fraction ?? 0} label={`${item.name} in work`} />
      </span>
    );
  }
  return (
    <span
      role="cell"
      aria-label={item.seam.map((s) => `${s.title}: ${s.state}`).join(", ")}
      className="flex gap-1.5"
    >
      {item.seam.map((s) => (
        <span key={s.question} title={`${s.title}: ${s.state}, ${s.text}`} className="flex-1 py-2">
          <span className={`block h-1.5 ${CAULK[s.state]}`} />
        </span>
      ))}
    </span>
  );
}
