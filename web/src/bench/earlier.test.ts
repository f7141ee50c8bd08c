import { describe, expect, it } from "vitest";
import type { RevisionLine } from "../api/client";
import { earlierStates } from "./earlier";

const line = (id: number, parent: number | null, operation: string) =>
  ({ id, parent, operation, number: id - 10, name: "", title: operation }) as RevisionLine;
const LINES = [
  line(10, null, "received"),
  line(11, 10, "mend"),
  line(12, 11, "recast"),
  line(13, 12, "smooth"),
  line(14, 11, "scale"),
];
const ids = (shown?: number) => earlierStates(LINES, shown).map((one) => one.id);

describe("states that detail is brought back from", () => {
  it.each([
    ["what was recast comes first, whatever was done since", 13, [11, 14, 12, 10]],
    ["without a recast what it was made of does", 14, [11, 13, 12, 10]],
    ["as received there is none before", 10, [14, 13, 12, 11]],
  ])("%s", (_, shown, expected) => {
    expect(ids(shown)).toEqual(expected);
  });

  it("they are called by number and title", () => {
    expect(earlierStates(LINES, 12)[0]).toEqual({ id: 11, called: "1 mend" });
  });
});
