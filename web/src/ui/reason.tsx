import { Button } from "./button";
import { useDraft } from "./drafts";
import { inputLook } from "./field";

/** What is done with a reason; the draft is let go once that has come about. */
export type OnReason = (reason: string) => Promise<unknown>;

type Props = {
  /** What the reason is for: the draft is kept under it. */
  about: string;
  label: string;
  placeholder: string;
  /** What the button says. */
  says: string;
  /** Null when nothing can be decided now; what was written stays. */
  onReason: OnReason | null;
  /** A second button, for the same with more: what it says and does. */
  more?: { says: string; onReason: OnReason | null } | null;
  /** Taken where nothing is written. */
  usual?: string;
  className?: string;
};

const LEAST = 3;

/** A decision that needs a reason. */
export function Reason({
  about,
  label,
  placeholder,
  says,
  onReason,
  more,
  usual,
  className,
}: Props) {
  const [text, write] = useDraft(about);
  const reason = text.trim() || usual || "";
  const enough = reason.length >= LEAST;
  const give = (to: OnReason | null | undefined) => {
    if (!to || !enough) return;
    // a refusal is told where all of them are; what was written stays for the next try
    to(reason).then(
      () => write(""),
      () => undefined,
    );
  };
  return (
    <form
      className={`flex flex-wrap gap-2 ${className ?? ""}`}
      onSubmit={(event) => {
        event.preventDefault();
        give(onReason);
      }}
    >
      <input
        aria-label={label}
        className={`${inputLook} min-w-[120px] flex-1`}
        placeholder={placeholder}
        maxLength={1000}
        value={text}
        onChange={(event) => write(event.target.value)}
      />
      <Button type="submit" disabled={!onReason || !enough}>
        {says}
      </Button>
      {more && (
        <Button disabled={!more.onReason || !enough} onClick={() => give(more.onReason)}>
          {more.says}
        </Button>
      )}
    </form>
  );
}
