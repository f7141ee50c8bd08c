import { describe, expect, it } from "vitest";
import {
  beginOfLine,
  beginOfRow,
  type Division,
  forEachCorner,
  halfOf,
  onLine,
  partAt,
  partCount,
  partHolding,
  piecesOf,
  pointAt,
  pointCount,
  rowsOf,
  sharesOf,
  sideOf,
} from "./face-division";

const cases: [n: number, slim: number, apex: number][] = [
  [1, 1, 1],
  [5, 1, 1],
  [1, 7, 0],
  [3, 2, 2],
  [4, 5, 1],
];

function oneFace(n: number, slim: number, apex: number) {
  const division: Division = {
    n: Uint16Array.of(n),
    slim: Uint16Array.of(slim),
    apex: Uint8Array.of(apex),
    begin: Uint32Array.of(0, partCount(n, slim)),
  };
  return rowsOf(division, 0);
}

describe.each(cases)(
  "a face divided into %i, %i times as often along, apex %i",
  (n, slim, apex) => {
    const of = oneFace(n, slim, apex);
    // weights at the corner before the apex, at the apex, and after it
    const corners: [number, number, number][][] = [];
    const seen = new Set<number>();
    forEachCorner(of, (part, line, j) => {
      const p = line / of.rows;
      const q = ((1 - p) * j) / Math.max(onLine(of, line), 1);
      (corners[part] ??= []).push([1 - p - q, p, q]);
      seen.add(beginOfLine(of, line) + j);
    });

    it("has as many parts and points as are counted", () => {
      expect(corners).toHaveLength(partCount(n, slim));
      expect([...seen].sort((a, b) => a - b)).toEqual([...Array(pointCount(of)).keys()]);
    });

    it("is covered by them, each as large as its share", () => {
      let total = 0;
      for (let row = 0; row < of.rows; row++) {
        const shares = sharesOf(of, row);
        for (let part = beginOfRow(of, row); part < beginOfRow(of, row + 1); part++) {
          const [a, b, c] = corners[part]!;
          const cross = (b![1] - a![1]) * (c![2] - a![2]) - (b![2] - a![2]) * (c![1] - a![1]);
          const share = shares[(part - beginOfRow(of, row)) % 2]!;
          expect(Math.abs(cross)).toBeCloseTo(share, 9);
          total += share;
        }
      }
      expect(total).toBeCloseTo(1, 9);
    });

    it("tells the part that holds a point", () => {
      corners.forEach((three, part) => {
        const middle = [1, 2].map((k) => three.reduce((sum, one) => sum + one[k]!, 0) / 3);
        expect(partHolding(of, middle[0]!, middle[1]!)).toBe(part);
      });
    });

    it("knows what lies along its sides", () => {
      for (let side = 0; side < 3; side++) {
        expect(sideOf(of, halfOf(of, side))).toBe(side);
        // the weight that grows along the side, and that of the corner across
        const [grows, across] = [(side + 1) % 3, (side + 2) % 3];
        const pieces = piecesOf(of, side);
        for (let piece = 0; piece < pieces; piece++) {
          const three = corners[partAt(of, side, piece)]!;
          const on = three.filter((one) => Math.abs(one[across]!) < 1e-9).map((one) => one[grows]!);
          expect(Math.min(...on)).toBeCloseTo(piece / pieces, 9);
          expect(Math.max(...on)).toBeCloseTo((piece + 1) / pieces, 9);
        }
        expect(pointAt(of, side, 0)).toBe(
          pointAt(of, (side + 2) % 3, piecesOf(of, (side + 2) % 3)),
        );
      }
    });
  },
);
