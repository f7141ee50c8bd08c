import type { ReactNode } from "react";

/** One line of the bar over the strip. */
export function Row({ children }: { children: ReactNode }) {
  return <div className="flex flex-wrap items-center gap-x-3 gap-y-1.5">{children}</div>;
}

/** One of several ways; the one that is taken is underlined. */
export function Choices<T extends string>(props: {
  label: string;
  value: T | null;
  of: readonly { value: T; says: string }[];
  onChange: (value: T) => void;
}) {
  return (
    <div role="group" aria-label={props.label} className="flex gap-1.5">
      {props.of.map(({ value, says }) => (
        <button
          key={value}
          type="button"
          aria-pressed={value === props.value}
          onClick={() => props.onChange(value)}
          className={`border border-rule bg-sheet px-2.5 py-1 hover:bg-paper-2 ${
            value === props.value ? "border-b-3 border-b-blue pb-0.5" : ""
          }`}
        >
          {says}
        </button>
      ))}
    </div>
  );
}
