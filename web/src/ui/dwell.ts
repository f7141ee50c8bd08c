import { useCallback, useEffect, useRef } from "react";

/** Milliseconds. Who only passes over something is gone by then; who means to click is not yet. */
export const DWELL = 80;

/** Tells what is pointed at once that has lasted; null is told at once to mean nothing any more. */
export function useDwell<Thing>(act: (thing: Thing) => void): (thing: Thing | null) => void {
  const latest = useRef(act);
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined);
  useEffect(() => {
    latest.current = act;
  });
  useEffect(() => () => clearTimeout(timer.current), []);
  return useCallback((thing) => {
    clearTimeout(timer.current);
    if (thing !== null) timer.current = setTimeout(() => latest.current(thing), DWELL);
  }, []);
}
