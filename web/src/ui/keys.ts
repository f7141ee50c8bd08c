import { useEffect, useRef, useState } from "react";

export type Keys = Record<string, () => void>;

const TYPING = "input, textarea, select, [contenteditable], [role=menu], [role=dialog]";

/** Whether a key stands for itself: nobody types, and no other is held with it. */
const isPlain = (event: KeyboardEvent) =>
  !(event.ctrlKey || event.metaKey || event.altKey) &&
  !(event.target instanceof Element && event.target.closest(TYPING));

/** Single keys, by `KeyboardEvent.key` in lower case; left alone while somebody types. */
export function useKeys(keys: Keys): void {
  const latest = useRef(keys);
  useEffect(() => {
    latest.current = keys;
  });
  useEffect(() => {
    const hear = (event: KeyboardEvent) => {
      if (event.defaultPrevented || !isPlain(event)) return;
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

/** Whether a key is being held down; never while somebody types. */
export function useHeldKey(key: string): boolean {
  const [held, setHeld] = useState(false);
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      if (isPlain(event) && event.key.toLowerCase() === key) setHeld(true);
    };
    const release = (event: KeyboardEvent) => {
      if (event.key.toLowerCase() === key) setHeld(false);
    };
    const letGo = () => setHeld(false);
    window.addEventListener("keydown", press);
    window.addEventListener("keyup", release);
    window.addEventListener("blur", letGo);
    return () => {
      window.removeEventListener("keydown", press);
      window.removeEventListener("keyup", release);
      window.removeEventListener("blur", letGo);
    };
  }, [key]);
  return held;
}
