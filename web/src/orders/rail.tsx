import type { Counts } from "../api/client";
import { count } from "../ui/format";
import type { Asked } from "./asked";

type Props = { counts: Counts | undefined; asked: Asked; onAsk: (part: Asked) => void };

/** The lists on the left: by state, and by customer. */
export function Rail({ counts, asked, onAsk }: Props) {
  return (
    <nav aria-label="Lists" className="w-[188px] shrink-0 overflow-auto py-3">
      <h2 className="px-4 pb-1 font-semibold text-ink-2">Today</h2>
      {counts?.lists.map(({ key, title, count: n }) => (
        <Line
          key={key}
          title={title}
          n={n}
          on={!asked.customer && key === asked.list}
          onClick={() => onAsk({ list: key as Asked["list"], customer: undefined })}
        />
      ))}
      {Boolean(counts?.customers.length) && (
        <h2 className="px-4 pb-1 pt-5 font-semibold text-ink-2">To do, by customer</h2>
      )}
      {counts?.customers.map(({ name, count: n }) => (
        <Line
          key={name}
          title={name}
          n={n}
          on={name === asked.customer}
          onClick={() => onAsk({ list: "open", customer: name })}
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
