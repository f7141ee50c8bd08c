import { useEffect, useRef, useState } from "react";

export type Keys = Record<string, () => void>;

const FIELD = "input:not([type=radio]):not([type=checkbox]), textarea, select, [contenteditable]";
const TYPING = `${FIELD}, [role=menu], [role=dialog]`;

/** A key acts again so long after the last one that went into a field which is there no more, ms. */
const REST = 1_500;
let written: { field: Element; at: number } | null = null;

if (typeof window !== "undefined") {
  window.addEventListener(
    "keydown",
    ({ target, timeStamp, key }) => {
      if (!(target instanceof Element && target.closest(FIELD))) return;
      // who leaves a field by Escape or Enter has done with writing
      written = key === "Escape" || key === "Enter" ? null : { field: target, at: timeStamp };
    },
    { capture: true },
  );
  // who takes the pointer has turned to something else
  window.addEventListener("pointerdown", () => (written = null), { capture: true });
}

/** Whether somebody goes on writing though the field went away under the words. */
function goesOnWriting({ timeStamp }: KeyboardEvent): boolean {
  if (!written || written.field.isConnected || timeStamp - written.at > REST) return false;
  written.at = timeStamp;
  return true;
}

const isTyped = ({ target }: KeyboardEvent) =>
  target instanceof Element && target.closest(TYPING) !== null;

const withControl = (event: KeyboardEvent) => event.ctrlKey || event.metaKey;

/** Whether a key stands for itself: nobody types, and no other is held with it. */
const isPlain = (event: KeyboardEvent) => !withControl(event) && !event.altKey && !isTyped(event);

const OFF = "ironcaulk.keys-off";

/** Whether somebody has switched off the keys of a single letter in this browser. */
export const keysAreOff = () => localStorage.getItem(OFF) === "1";

export const switchKeys = (off: boolean) =>
  off ? localStorage.setItem(OFF, "1") : localStorage.removeItem(OFF);

/**
 * Single keys, by `KeyboardEvent.key` in lower case, `ctrl+` or `shift+` before those held with it;
 * left alone while somebody types.
 */
export function useKeys(keys: Keys): void {
  const latest = useRef(keys);
  useEffect(() => {
    latest.current = keys;
  });
  useEffect(() => {
    const hear = (event: KeyboardEvent) => {
      if (event.defaultPrevented || event.altKey || isTyped(event) || goesOnWriting(event)) return;
      const onButton = event.target instanceof HTMLButtonElement;
      if (onButton && (event.key === "Enter" || event.key === " ")) return;
      const key = event.key.toLowerCase();
      const held = withControl(event) ? "ctrl+" : "";
      if (keysAreOff() && key.length === 1 && !held) return;
      const act =
        latest.current[`${held}${event.shiftKey ? "shift+" : ""}${key}`] ??
        latest.current[held + key];
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
      if (isPlain(event) && !keysAreOff() && event.key.toLowerCase() === key) setHeld(true);
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
