/** The mark over the view that shows what a click would take; moved without being rendered. */
export type Cursor = {
  /** A dot where a pick would snap to. */
  dot: HTMLElement | null;
  /** The round of a brush. */
  round: HTMLElement | null;
  /** What a rectangle or lasso has drawn round so far. */
  drawn: SVGPolygonElement | null;
};

export const CURSOR: Cursor = { dot: null, round: null, drawn: null };

export function showDot(at: readonly [number, number] | null): void {
  if (!CURSOR.dot) return;
  CURSOR.dot.style.visibility = at ? "" : "hidden";
  if (at) CURSOR.dot.style.transform = `translate(${at[0]}px, ${at[1]}px) translate(-50%, -50%)`;
}

export function showRound(at: readonly [number, number] | null, radius = 0): void {
  if (!CURSOR.round) return;
  CURSOR.round.style.visibility = at ? "" : "hidden";
  if (!at) return;
  CURSOR.round.style.width = CURSOR.round.style.height = `${2 * radius}px`;
  CURSOR.round.style.transform = `translate(${at[0]}px, ${at[1]}px) translate(-50%, -50%)`;
}

export function showDrawn(points: readonly (readonly [number, number])[]): void {
  CURSOR.drawn?.setAttribute("points", points.map((one) => one.join(",")).join(" "));
}

export function hideCursor(): void {
  showDot(null);
  showRound(null);
  showDrawn([]);
}
