// @vitest-environment jsdom
import * as THREE from "three";
import { describe, expect, it } from "vitest";
import { deviationOf } from "./deviation-worker";

const box = (size: number) => {
  const made = new THREE.BoxGeometry(size, size, size);
  return {
    positions: made.getAttribute("position").array as Float32Array,
    corners: Uint32Array.from(made.index!.array),
  };
};

describe("what changed", () => {
  it("is nothing where the vertices stayed", () => {
    const { positions, corners } = box(10);
    const away = deviationOf({ points: positions.slice(), positions, corners });
    expect(Math.max(...away)).toBe(0);
  });

  it("is the distance to the surface, not to its vertices", () => {
    const { positions, corners } = box(10);
    const points = new Float32Array([0, 0, 5.5, 0, 0, 4.25, 5, 5, 5, 8, 9, 0]);
    const away = [...deviationOf({ points, positions, corners })];
    [0.5, 0.75, 0, 5].forEach((mm, i) => expect(away[i]).toBeCloseTo(mm, 4));
  });

  it("leaves out what the packing of coordinates alone may move", () => {
    const { positions, corners } = box(10);
    const points = new Float32Array([0, 0, 5.0005]);
    expect(deviationOf({ points, positions, corners })[0]).toBe(0);
  });
});
