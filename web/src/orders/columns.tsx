import type { ReactNode } from "react";
import type { ItemLine } from "../api/client";
import { count, due, timeOf } from "../ui/format";

export type Column = {
  key: string;
  title: string;
  /** Of the grid's template. */
  width: string;
  right?: boolean;
  cell: (item: ItemLine) => ReactNode;
};

const Two = ({ above, below }: { above: string; below: string }) => (
  <>
    <b className="block truncate font-[650]" title={above}>
      {above}
    </b>
    <span className="block truncate text-small text-ink-2" title={below}>
      {below}
    </span>
  </>
);

function Due({ item }: { item: ItemLine }) {
  const when = due(item.order.due);
  const late = when.late && !item.released;
  return (
    <span className={late ? "font-[650] text-rust" : ""}>
      {when.text}
      {late && " (late)"}
    </span>
  );
}

/** The columns before the seam, in order; the list sorts by each. */
export const COLUMNS: readonly Column[] = [
  {
    key: "order",
    title: "Order",
    width: "minmax(92px,1fr)",
    cell: (item) => <Two above={item.order.number} below={item.order.customer_name} />,
  },
  {
    key: "item",
    title: "Item",
    width: "minmax(128px,1.6fr)",
    cell: (item) => (
      <Two
        above={item.name}
        below={
          item.triangles === null
            ? item.file_name
            : `${item.file_name}, ${count(item.triangles)} triangles`
        }
      />
    ),
  },
  {
    key: "triangles",
    title: "Triangles",
    width: "78px",
    right: true,
    cell: (item) => (item.triangles === null ? "" : count(item.triangles)),
  },
  {
    key: "material",
    title: "Material",
    width: "minmax(80px,0.7fr)",
    cell: (item) => item.material_name,
  },
  {
    key: "quantity",
    title: "Qty",
    width: "42px",
    right: true,
    cell: (item) => count(item.quantity),
  },
  { key: "due", title: "Due", width: "minmax(84px,0.5fr)", cell: (item) => <Due item={item} /> },
  {
    key: "received",
    title: "Received",
    width: "92px",
    cell: (item) => timeOf(item.created),
  },
  {
    key: "assignee",
    title: "With",
    width: "minmax(72px,0.5fr)",
    cell: (item) => item.assignee_name,
  },
];

/** Shown until somebody chooses others. */
const USUAL = ["order", "item", "material", "quantity", "due"];
/** What a row without is no row. */
export const ALWAYS = ["order", "item"];

const KEPT = "ironcaulk.columns";

/** The columns that were chosen in this browser. */
export function keptColumns(): string[] {
  try {
    const kept: unknown = JSON.parse(localStorage.getItem(KEPT) ?? "null");
    if (!Array.isArray(kept)) return USUAL;
    const known = COLUMNS.map((one) => one.key).filter((key) => kept.includes(key));
    return [...new Set([...ALWAYS, ...known])];
  } catch {
    return USUAL;
  }
}

export const keepColumns = (keys: string[]) => localStorage.setItem(KEPT, JSON.stringify(keys));
