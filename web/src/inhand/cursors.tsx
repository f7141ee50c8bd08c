import { useEffect, useRef } from "react";
import { CURSOR, hideCursor } from "./cursor";

/** What shows over the view where a tool would take something; see `cursor.ts`. */
export function Cursors() {
  const dot = useRef<HTMLSpanElement>(null);
  const round = useRef<HTMLSpanElement>(null);
  const drawn = useRef<SVGPolygonElement>(null);
  useEffect(() => {
    Object.assign(CURSOR, { dot: dot.current, round: round.current, drawn: drawn.current });
    hideCursor();
    return () => {
      Object.assign(CURSOR, { dot: null, round: null, drawn: null });
    };
  }, []);
  return (
    <div className="pointer-events-none absolute inset-0 overflow-hidden" aria-hidden="true">
      <span
        ref={dot}
        className="absolute left-0 top-0 size-2.5 rounded-full border-2 border-ink bg-chalk"
      />
      <span
        ref={round}
        className="absolute left-0 top-0 rounded-full border border-chalk outline outline-ink/60"
      />
      <svg className="absolute inset-0 h-full w-full">
        <polygon
          ref={drawn}
          fill="rgb(242 239 230 / 0.15)"
          stroke="#f2efe6"
          strokeDasharray="5 3"
        />
      </svg>
    </div>
  );
}
