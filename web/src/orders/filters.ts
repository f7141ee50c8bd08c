import type { ItemLine } from "../api/client";
import { isOpen } from "../api/queries";

const has = (item: ItemLine, state: string) => item.seam.some((s) => s.state === state);

const beingJudged = (item: ItemLine) => isOpen(item.judging);

/** The lists of the rail, in the order of the day. */
export const LISTS: readonly { key: string; title: string; holds: (item: ItemLine) => boolean }[] =
  [
    { key: "all", title: "Everything", holds: () => true },
    {
      key: "you",
      title: "Needs you",
      holds: (item) => !item.set_aside && (Boolean(item.problem) || has(item, "your call")),
    },
    { key: "leaks", title: "Leaks", holds: (item) => !item.set_aside && has(item, "leaks") },
    { key: "running", title: "Running", holds: (item) => isOpen(item.job) || beingJudged(item) },
    { key: "ready", title: "Tight, to release", holds: (item) => item.ready },
    { key: "released", title: "Released", holds: (item) => item.released !== null },
    { key: "aside", title: "Set aside", holds: (item) => item.set_aside },
  ];

/** What is next with an item, in a few words. */
export function nextWord(item: ItemLine): string {
  if (isOpen(item.job)) {
    const share = Math.round((item.job?.fraction ?? 0) * 100);
    return item.job?.state === "waiting"
      ? "waits its turn"
      : `${item.job?.step || "working"}, ${share} %`;
  }
  if (item.set_aside) return "set aside";
  if (item.problem) return item.problem;
  const open =
    item.seam.find((s) => s.state === "leaks" || s.state === "your call") ??
    (item.triangles === null
      ? undefined
      : item.seam.find((s) => s.state === "not run" && s.question !== "release"));
  if (open) return open.text;
  if (item.released) return "released";
  if (item.triangles === null) return "not examined";
  const walls = item.seam.find((s) => s.question === "walls" && s.state === "tight")?.text;
  return walls?.includes(" of ") ? `ready to release; ${walls}` : "tight, ready to release";
}
