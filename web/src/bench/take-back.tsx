import type { Cover } from "../api/client";
import { Reason } from "../ui/reason";
import type { Work } from "./use-work";

type Props = {
  /** What the draft of the reason is kept under. */
  about: string;
  cover: Cover;
  /** Null when nothing can be decided now. */
  onWithdraw: Work["withdraw"] | null;
};

/** Takes the acceptance of one place back, with a reason. */
export function TakeBack({ about, cover, onWithdraw }: Props) {
  return (
    <Reason
      about={about}
      label="Reason to take the acceptance back"
      placeholder="Take that back, because…"
      says="Take back"
      className="mt-2"
      onReason={onWithdraw && ((reason) => onWithdraw(cover.decision, [cover.index], reason))}
    />
  );
}
