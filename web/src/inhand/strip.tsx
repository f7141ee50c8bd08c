import { type ReactNode, useEffect, useRef } from "react";
import { type ToolName, useHand } from "./hand";

export const TOOL_KEYS: readonly { tool: ToolName; says: string; of: string; key: string }[] = [
  { tool: "turn", says: "Turn", of: "the view", key: "Space" },
  { tool: "rule", says: "Rule", of: "measure", key: "⇧R" },
  { tool: "probe", says: "Probe", of: "one point", key: "⇧P" },
  { tool: "cut", says: "Cut", of: "a plane", key: "⇧C" },
  { tool: "choose", says: "Choose", of: "faces", key: "⇧F" },
  { tool: "reference", says: "Reference", of: "a known size", key: "⇧K" },
];

/** The strip at the foot of the view: what the pointer works with, and over it what that takes. */
export function Strip(props: {
  /** What is told of the view itself, above all. */
  above: ReactNode;
  children: ReactNode;
}) {
  const foot = useRef<HTMLElement>(null);
  useEffect(() => {
    const box = foot.current;
    const main = box?.closest("main");
    if (!box || !main || typeof ResizeObserver === "undefined") return undefined;
    // what is drawn over the view stands clear of it
    const seen = new ResizeObserver(() =>
      main.style.setProperty("--foot", `${box.offsetHeight + 12}px`),
    );
    seen.observe(box);
    return () => {
      seen.disconnect();
      main.style.removeProperty("--foot");
    };
  }, []);
  const tool = useHand((hand) => hand.tool);
  const take = useHand((hand) => hand.take);
  return (
    <section
      ref={foot}
      aria-label="In hand"
      className="pointer-events-none absolute inset-x-4 bottom-3 flex flex-col items-center"
    >
      {props.above}
      {props.children && (
        <div
          data-testid="bar"
          className="pointer-events-auto max-h-[60vh] w-full max-w-[760px] space-y-2 overflow-auto rounded-t border-b border-rule bg-paper px-3 py-2.5 shadow"
        >
          {props.children}
        </div>
      )}
      <div
        role="group"
        aria-label="What the pointer works with"
        className={`pointer-events-auto flex w-full max-w-[760px] divide-x divide-rule overflow-hidden bg-paper shadow ${
          props.children ? "rounded-b" : "rounded"
        }`}
      >
        {TOOL_KEYS.map((one) => (
          <button
            key={one.tool}
            type="button"
            aria-pressed={one.tool === tool}
            onClick={() => take(one.tool)}
            className={`min-w-0 flex-1 truncate border-t-3 px-2.5 py-1 text-left ${
              one.tool === tool
                ? "border-t-blue bg-sheet font-[650]"
                : "border-t-transparent hover:bg-paper-2"
            }`}
          >
            {one.says} <kbd className="font-sans text-small font-normal text-ink-2">{one.key}</kbd>
          </button>
        ))}
      </div>
    </section>
  );
}
