import type { ItemLine } from "../api/client";
import { count } from "../ui/format";
import { LISTS } from "./filters";

type Props = {
  items: ItemLine[];
  list: string;
  onList: (key: string) => void;
  customer: string | null;
  onCustomer: (name: string) => void;
};

/** The lists on the left: by state, and by customer. */
export function Rail({ items, list, onList, customer, onCustomer }: Props) {
  const customers = [...new Set(items.map((item) => item.order.customer_name))].sort();
  return (
    <nav aria-label="Lists" className="w-[200px] shrink-0 overflow-auto py-3">
      <h2 className="px-4 pb-1 font-semibold text-ink-2">Today</h2>
      {LISTS.map(({ key, title, holds }) => (
        <Line
          key={key}
          title={title}
          n={items.filter(holds).length}
          on={!customer && key === list}
          onClick={() => onList(key)}
        />
      ))}
      <h2 className="px-4 pb-1 pt-5 font-semibold text-ink-2">By customer</h2>
      {customers.map((name) => (
        <Line
          key={name}
          title={name}
          n={items.filter((item) => item.order.customer_name === name).length}
          on={name === customer}
          onClick={() => onCustomer(name)}
        />
      ))}
    </nav>
  );
}

function Line(props: { title: string; n: number; on: boolean; onClick: () => void }) {
  return (
    <button
      type="button"
      aria-current={props.on || undefined}
      onClick={props.onClick}
      className={`flex w-full justify-between gap-3 border-l-3 py-1 pl-[13px] pr-4 text-left ${
        props.on ? "border-blue bg-sheet font-[650]" : "border-transparent hover:bg-paper-2"
      }`}
    >
      <span>{props.title}</span>
      <span className="text-ink-2">{count(props.n)}</span>
    </button>
  );
}
