import type { ReactNode } from "react";

/** A whole area with one thing to say: loading, empty, failed. */
export function Notice({ title, children }: { title: string; children?: ReactNode }) {
  return (
    <div className="flex h-full flex-col items-center justify-center gap-3 p-8 text-center">
      <p className="text-verdict font-[650]">{title}</p>
      {children && <div className="max-w-md text-ink-2">{children}</div>}
    </div>
  );
}
