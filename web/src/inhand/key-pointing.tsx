import { type KeyboardEvent, type ReactNode, useRef } from "react";
import { EYE } from "../viewer/eye";
import { KEY_POINT, type KeyPoint } from "../viewer/picking";
import { useHand } from "./hand";

const STEP = 12;
const FINE = 1;
const WAYS: Record<string, readonly [number, number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
};

type Props = {
  /** Turn the view by degrees round and up, with nothing in hand. */
  onTurn: (round: number, up: number) => void;
  children: ReactNode;
};

const TURN = 15;

/**
 * The view by keys: with nothing in hand the arrows turn it; else they move the pointed-at place,
 * finely with Shift, and Enter takes what is there.
 */
export function KeyPointing({ onTurn, children }: Props) {
  const mark = useRef<HTMLSpanElement>(null);
  const at = useRef<[number, number] | null>(null);
  const hide = () => {
    if (mark.current) mark.current.style.visibility = "hidden";
  };
  const tell = (takes: boolean, shift: boolean) => {
    const canvas = EYE.canvas;
    if (!canvas || !mark.current) return;
    const { width, height } = canvas.getBoundingClientRect();
    at.current ??= [width / 2, height / 2];
    const [x, y] = at.current.map((one, k) =>
      Math.min(Math.max(one, 0), (k ? height : width) - 1),
    ) as [number, number];
    at.current = [x, y];
    mark.current.style.visibility = "";
    mark.current.style.transform = `translate(${x}px, ${y}px) translate(-50%, -50%)`;
    const detail: KeyPoint = { x, y, takes, shift };
    canvas.dispatchEvent(new CustomEvent(KEY_POINT, { detail }));
  };
  const onKeyDown = (event: KeyboardEvent) => {
    const way = WAYS[event.key];
    const { tool } = useHand.getState();
    const turns = tool === "turn" || tool === "reference";
    if (!way && (event.key !== "Enter" || turns)) return;
    event.preventDefault();
    if (way && turns) {
      onTurn(way[0] * TURN, -way[1] * TURN);
      return;
    }
    if (way) {
      const step = event.shiftKey ? FINE : STEP;
      const canvas = EYE.canvas?.getBoundingClientRect();
      at.current ??= [(canvas?.width ?? 0) / 2, (canvas?.height ?? 0) / 2];
      at.current = [at.current[0] + way[0] * step, at.current[1] + way[1] * step];
    }
    tell(!way, event.shiftKey);
  };
  return (
    <div
      role="application"
      aria-label="The view. Arrow keys turn it, or move what is pointed at; Enter takes it."
      tabIndex={0}
      data-view
      className="absolute inset-0 outline-offset-[-3px] focus-visible:outline-2 focus-visible:outline-chalk"
      onKeyDown={onKeyDown}
      onPointerMove={hide}
      onBlur={hide}
    >
      {children}
      <span
        ref={mark}
        aria-hidden="true"
        style={{ visibility: "hidden" }}
        className="pointer-events-none absolute left-0 top-0 size-6 rounded-full border-2 border-chalk outline outline-ink"
      />
    </div>
  );
}
