import type { ButtonHTMLAttributes } from "react";

const LOOKS = {
  primary:
    "px-3 bg-blue text-chalk border-blue hover:bg-blue-deep disabled:bg-slate disabled:border-slate",
  plain:
    "px-3 bg-sheet text-ink border-slate hover:bg-paper-2 disabled:text-ink-2 disabled:bg-paper-2",
  quiet: "bg-transparent text-blue border-transparent hover:underline",
};

type Props = ButtonHTMLAttributes<HTMLButtonElement> & {
  look?: keyof typeof LOOKS;
  /** Key that does the same, shown beside the words. */
  hint?: string;
};

export function Button({ look = "plain", hint, className = "", children, ...rest }: Props) {
  return (
    <button
      type="button"
      aria-keyshortcuts={hint}
      className={`inline-flex items-center justify-center gap-2 rounded border py-1.5 font-semibold ${LOOKS[look]} ${className}`}
      {...rest}
    >
      {children}
      {hint && <kbd className="font-sans text-small font-normal opacity-75">{hint}</kbd>}
    </button>
  );
}
