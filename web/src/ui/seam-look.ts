import type { Segment } from "../api/client";

/** How each state of a question is drawn; the words stand beside it everywhere. */
export const CAULK: Record<Segment["state"], string> = {
  tight: "caulk-tight",
  leaks: "caulk-leaks",
  "your call": "caulk-call",
  waived: "caulk-waived",
  "not run": "caulk-idle",
};
