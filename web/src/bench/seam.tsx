import type { Segment } from "../api/client";
import { CAULK } from "../ui/seam-look";

/** A state as it begins a sentence, where its name does not. */
const WORDS: Record<string, string> = { waived: "accepted" };

type Props = { segments: Segment[]; open: string; onOpen: (question: string) => void };

/** The strip of questions; the open one is answered by the rest of the screen. */
export function Seam({ segments, open, onOpen }: Props) {
  return (
    <nav aria-label="Questions" className="shrink-0">
      <div role="tablist" aria-label="Seam" className="flex h-[66px] bg-paper">
        {segments.map((s, i) => {
          const on = s.question === open;
          return (
            <button
              key={s.question}
              type="button"
              role="tab"
              aria-selected={on}
              aria-keyshortcuts={String(i + 1)}
              data-question={s.question}
              data-state={s.state}
              onClick={() => onOpen(s.question)}
              className={`flex min-w-0 flex-1 flex-col border-r border-t-3 border-r-rule pt-3 text-left ${
                on ? "grow-[1.4] border-t-blue bg-sheet" : "border-t-transparent hover:bg-paper-2"
              }`}
            >
              <span className={`px-3.5 text-[14px] font-[650] ${on ? "text-blue" : ""}`}>
                {s.title}
              </span>
              <span className="block truncate px-3.5 text-ink-2" title={s.text}>
                {s.state === "tight" || s.state === "not run"
                  ? ""
                  : `${WORDS[s.state] ?? s.state}: `}
                {s.text}
              </span>
              <span className={`mt-auto block h-1.5 w-full ${CAULK[s.state]}`} />
            </button>
          );
        })}
      </div>
    </nav>
  );
}
