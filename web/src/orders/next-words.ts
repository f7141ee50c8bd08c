import type { ItemLine } from "../api/client";
import { isOpen } from "../api/queries";

/** What is next with an item, in a few words: while work goes on, how far that is. */
export function nextWords(item: ItemLine): string {
  if (!isOpen(item.job)) return item.next;
  if (item.job?.state === "waiting") return item.job.message || "waits its turn";
  return `${item.job?.step || "working"}, ${Math.round((item.job?.fraction ?? 0) * 100)} %`;
}
