import type { ReactNode } from "react";

export const inputLook =
  "w-full rounded border border-slate bg-sheet px-2 py-1.5 text-ink placeholder:text-ink-2";

/** A labelled control. */
export function Field({ label, children }: { label: string; children: ReactNode }) {
  return (
    <label className="block">
      <span className="mb-1 block text-ink-2">{label}</span>
      {children}
    </label>
  );
}

/** One sentence about what went wrong. */
export function Complaint({ children }: { children: ReactNode }) {
  return (
    <p role="alert" className="border-l-3 border-rust bg-sheet px-3 py-2 text-rust">
      {children}
    </p>
  );
}
