import { describe, expect, it } from "vitest";
import { coarseOf } from "./coarse";

/** A square of n x n cells at a height, two faces each; corners and positions to be joined. */
function sheet(n: number, z: number, first: number) {
  const positions: number[] = [];
  const corners: number[] = [];
  for (let i = 0; i <= n; i++) for (let j = 0; j <= n; j++) positions.push(i / n, j / n, z);
  for (let i = 0; i < n; i++) {
    for (let j = 0; j < n; j++) {
      const a = first + i * (n + 1) + j;
      corners.push(a, a + n + 1, a + n + 2, a, a + n + 2, a + 1);
    }
  }
  return { positions, corners };
}

describe("the coarse stand-in", () => {
  const one = sheet(60, 0, 0);
  const two = sheet(60, 0.5, 61 * 61);
  const positions = new Float32Array([...one.positions, ...two.positions]);
  const fine = {
    corners: new Uint32Array([...one.corners, ...two.corners]),
    starts: new Uint32Array([0, 7200, 14400]),
  };
  const coarse = coarseOf(positions, fine, 10);

  it("has far fewer faces, and all shells in their order", () => {
    expect(coarse.corners.length / 3).toBeLessThan(14400 / 20);
    expect(coarse.starts).toHaveLength(3);
    const [, second, end] = coarse.starts;
    expect(second).toBeGreaterThan(100);
    expect(end! - second!).toBe(second);
    const heights = [...coarse.corners].map((v) => positions[3 * v + 2]);
    expect(new Set(heights.slice(0, second! * 3))).toEqual(new Set([0]));
    expect(new Set(heights.slice(second! * 3))).toEqual(new Set([0.5]));
  });

  it("covers nearly as much as the skin, with no face folded", () => {
    let area = 0;
    for (let c = 0; c < coarse.starts[1]! * 3; c += 3) {
      const [ax, ay, bx, by, cx, cy] = [0, 1, 2].flatMap((k) => {
        const v = coarse.corners[c + k]! * 3;
        return [positions[v]!, positions[v + 1]!];
      }) as [number, number, number, number, number, number];
      const twice = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax);
      expect(twice).toBeGreaterThanOrEqual(0);
      area += twice / 2;
    }
    expect(area).toBeGreaterThan(0.75);
    expect(area).toBeLessThanOrEqual(1);
  });

  it("of something without extent is empty", () => {
    const point = { corners: new Uint32Array([0, 1, 2]), starts: new Uint32Array([0, 1]) };
    expect(coarseOf(new Float32Array(9), point, 10).corners).toHaveLength(0);
  });
});
