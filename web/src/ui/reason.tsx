import { useState } from "react";
import { Button } from "./button";
import { inputLook } from "./field";

type Props = {
  label: string;
  placeholder: string;
  /** What the button says. */
  says: string;
  /** Null when nothing can be decided now. */
  onReason: ((reason: string) => void) | null;
  className?: string;
};

/** A decision that needs a reason. */
export function Reason({ label, placeholder, says, onReason, className = "" }: Props) {
  const [reason, setReason] = useState("");
  return (
    <form
      className={`flex gap-2 ${className}`}
      onSubmit={(event) => {
        event.preventDefault();
        onReason?.(reason.trim());
      }}
    >
      <input
        aria-label={label}
        className={inputLook}
        placeholder={placeholder}
        minLength={3}
        maxLength={1000}
        required
        value={reason}
        onChange={(event) => setReason(event.target.value)}
      />
      <Button type="submit" disabled={!onReason}>
        {says}
      </Button>
    </form>
  );
}
