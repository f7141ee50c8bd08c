import { describe, expect, it } from "vitest";
import { cross, settle, type Spot } from "./labels";

const HEIGHT = 620;
const spots = (points: [number, number][]): Spot[] =>
  points.map(([x, y], i) => ({ x, y, number: i + 1, row: 0 }));

/** A small generator with a seed, so that a failure can be repeated. */
function random(seed: number): () => number {
  let state = seed;
  return () => {
    state = (state * 1664525 + 1013904223) % 4294967296;
    return state / 4294967296;
  };
}

describe("labels in the margin", () => {
  it("stand level with their place when there is room", () => {
    const few = spots([
      [400, 100],
      [300, 300],
      [450, 500],
    ]);
    settle(few, 690, HEIGHT);
    expect(few.map((s) => s.row)).toEqual([100, 300, 500]);
  });

  it.each([
    ["all at one height", Array.from({ length: 14 }, (_, i) => [300 + i, 310] as [number, number])],
    ["all at the top", Array.from({ length: 14 }, (_, i) => [300 + i, -50] as [number, number])],
    [
      "all below the edge",
      Array.from({ length: 14 }, (_, i) => [300, 900 + i] as [number, number]),
    ],
  ])("keep apart and in sight: %s", (_, points) => {
    const crowd = spots(points);
    settle(crowd, 690, HEIGHT);
    const rows = crowd.map((s) => s.row).sort((a, b) => a - b);
    for (let i = 1; i < rows.length; i++) expect(rows[i]! - rows[i - 1]!).toBeGreaterThan(24);
    expect(rows[0]).toBeGreaterThanOrEqual(0);
    expect(rows.at(-1)).toBeLessThanOrEqual(HEIGHT);
  });

  it("have leader lines that do not cross, for many random places", () => {
    for (let seed = 1; seed <= 60; seed++) {
      const next = random(seed);
      const edge = seed % 2 ? 690 : 206;
      const side = (x: number) => (edge === 690 ? 360 + 300 * x : 350 * x);
      const many = spots(
        Array.from({ length: 10 }, () => [side(next()), 20 + 580 * next()] as [number, number]),
      );
      settle(many, edge, HEIGHT);
      let crossings = 0;
      for (let i = 0; i < many.length; i++) {
        for (let j = i + 1; j < many.length; j++) {
          if (cross(many[i]!, many[i]!.row, many[j]!, many[j]!.row, edge)) crossings++;
        }
      }
      expect(crossings, `seed ${seed}`).toBe(0);
    }
  });
});
