import type { Item } from "../api/client";
import { plural, timeOf } from "../ui/format";
import { useBench } from "./store";

type Props = { item: Item; shown: number | null; onTrail: () => void };

/** The revisions in order; a click looks at one. */
export function Logbook({ item, shown, onTrail }: Props) {
  const view = useBench((bench) => bench.view);
  const decided = (number: number) =>
    item.decisions.filter((one) => one.revision === number).length;
  return (
    <footer aria-label="Logbook" className="flex h-[70px] shrink-0 border-t border-rule bg-paper-2">
      <div className="flex min-w-0 flex-1 overflow-x-auto">
        {item.revisions.map((revision) => {
          const on = revision.id === shown;
          const current = revision.id === item.current;
          const parent = item.revisions.find((one) => one.id === revision.parent);
          const branched = parent && parent.number !== revision.number - 1;
          return (
            <button
              key={revision.id}
              type="button"
              aria-pressed={on}
              data-revision={revision.number}
              onClick={() => view(current ? null : revision.id)}
              title={`${revision.made_by}, ${timeOf(revision.made)}`}
              className={`min-w-[150px] shrink-0 border-r border-t-3 border-r-rule px-3.5 pt-1.5 text-left ${
                on ? "border-t-ink bg-sheet" : "border-t-transparent hover:bg-paper"
              }`}
            >
              <span className="block font-[650]">
                {revision.number}&ensp;{revision.title}
              </span>
              <span className="block text-ink-2">
                {revision.summary}, {revision.tight ? "tight" : "leaks"}
              </span>
              <span className="block text-small text-ink-2">
                {[
                  branched && `from ${parent.number}`,
                  decided(revision.number) > 0 && plural(decided(revision.number), "decision"),
                  current ? "work goes on from here" : timeOf(revision.made),
                ]
                  .filter(Boolean)
                  .join(", ")}
              </span>
            </button>
          );
        })}
        {!item.revisions.length && (
          <p className="self-center px-4 text-ink-2">The logbook begins when the file is read.</p>
        )}
      </div>
      <button
        type="button"
        aria-keyshortcuts=";"
        onClick={onTrail}
        className="w-[96px] shrink-0 border-l border-rule px-3.5 text-left hover:bg-paper"
      >
        <b className="font-[650]">Trail</b> <kbd className="font-sans text-small text-ink-2">;</kbd>
        <span className="block text-small text-ink-2">who did what</span>
      </button>
    </footer>
  );
}
