import { beforeEach, describe, expect, it } from "vitest";
import { finding, question, revision } from "../tests/makers";
import { rowsOf } from "./rows";
import { useBench } from "./store";
import { verdictOf } from "./verdict";

const CLOSED = question(
  "closed",
  ["open-edges", "hole", "holes"],
  ["cracks", "crack", "cracks"],
  ["open-sheets", "open sheet", "open sheets"],
);
const INSIDE = question("inside", ["sealed-voids", "sealed void", "sealed voids"]);
const SIZE = question("size", ["unit-suspect", "unit in doubt", "units in doubt"]);

const broken = revision(
  finding("cracks", "leak", "Crack, 4 edges"),
  finding("sealed-voids", "call", "Sealed void"),
  finding("open-edges", "leak", "Hole, 14 edges", "Hole, 3 edges"),
);

describe("rows of the ledger", () => {
  it("follow the question's order, numbered on, and know their mark", () => {
    const rows = rowsOf(broken, CLOSED);
    expect(rows.map((r) => [r.number, r.spot.title, r.place, r.mark])).toEqual([
      [1, "Hole, 14 edges", 1, 2],
      [2, "Hole, 3 edges", 2, 3],
      [3, "Crack, 4 edges", 1, 0],
    ]);
  });

  it("belong to one question only", () => {
    expect(rowsOf(broken, INSIDE).map((r) => r.mark)).toEqual([1]);
    expect(rowsOf(revision(), CLOSED)).toEqual([]);
  });
});

describe("the verdict", () => {
  const told = (rev: typeof broken, q = CLOSED) => verdictOf(rev, q, rowsOf(rev, q));

  it("counts places in words and names their kinds", () => {
    expect(told(broken)).toEqual({
      title: "The skin leaks at three places.",
      about: "Two holes, one crack.",
    });
  });

  it("speaks of one place in the singular", () => {
    const one = revision(finding("open-edges", "leak", "Hole"));
    expect(told(one).title).toBe("The skin leaks at one place.");
  });

  it("adds what a person must decide", () => {
    const sheet = revision(
      finding("open-edges", "leak", "Hole"),
      finding("open-sheets", "call", "Open sheet"),
    );
    expect(told(sheet).about).toBe("One hole. Your call: one open sheet.");
  });

  it("asks when there are only calls", () => {
    expect(told(broken, INSIDE)).toEqual({
      title: "A person must decide.",
      about: "One sealed void.",
    });
  });

  it("says so when all is well", () => {
    expect(told(revision()).title).toBe("The skin is tight.");
    expect(told(revision()).about).toContain("12 triangles in 1 shell, examined in 0.1 s");
    expect(told(revision(), INSIDE).title).toBe("Nothing inside.");
  });

  it("doubts a size with the reason", () => {
    const doubt = revision(finding("unit-suspect", "call", "The whole model"));
    expect(told(doubt, SIZE).title).toBe("10.0 mm long: is that meant?");
    expect(told(revision(), SIZE).title).toBe("10.0 mm long.");
  });
});

describe("how the bench looks at its item", () => {
  beforeEach(() => useBench.getState().reset());
  const bench = () => useBench.getState();

  it("lets go of the finding when the question or the revision changes", () => {
    bench().choose(3);
    bench().open("inside");
    expect([bench().question, bench().chosen]).toEqual(["inside", null]);
    bench().choose(2);
    bench().view(12);
    expect([bench().viewing, bench().chosen]).toEqual([12, null]);
  });

  it("asks for a flight anew each time, also to the same place", () => {
    const before = bench().flight.turn;
    bench().look("front");
    bench().look("front");
    expect(bench().flight).toEqual({ turn: before + 2, to: "front" });
    bench().goTo(
      [
        [0, 0, 0],
        [1, 1, 1],
      ],
      [0, 0, 1],
    );
    expect(bench().flight).toMatchObject({ turn: before + 3, to: "place" });
  });

  it("switches one look and leaves the others", () => {
    const before = bench().looks;
    bench().toggle("triangles");
    expect(bench().looks).toEqual({ ...before, triangles: true });
    bench().toggle("triangles");
    expect(bench().looks.triangles).toBe(false);
  });
});
