import { useEffect, useRef } from "react";

export type Keys = Record<string, () => void>;

const TYPING = "input, textarea, select, [contenteditable], [role=menu], [role=dialog]";

/** Single keys, by `KeyboardEvent.key` in lower case; left alone while somebody types. */
export function useKeys(keys: Keys): void {
  const latest = useRef(keys);
  useEffect(() => {
    latest.current = keys;
  });
  useEffect(() => {
    const hear = (event: KeyboardEvent) => {
      if (event.ctrlKey || event.metaKey || event.altKey || event.defaultPrevented) return;
      if (event.target instanceof Element && event.target.closest(TYPING)) return;
      const onButton = event.target instanceof HTMLButtonElement;
      if (onButton && (event.key === "Enter" || event.key === " ")) return;
      const act = latest.current[event.key.toLowerCase()];
      if (!act) return;
      event.preventDefault();
      act();
    };
    window.addEventListener("keydown", hear);
    return () => window.removeEventListener("keydown", hear);
  }, []);
}
