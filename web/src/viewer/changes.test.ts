import * as THREE from "three";
import { describe, expect, it } from "vitest";
import { changesOf, unpackChanges } from "./changes";
import { ALL_SHOWN } from "./shells";
import type { Skin } from "./skin";

/** Two triangles, the second of them new and divided into 2 x 2 parts. */
function packed(parts: number[], steps: number[], greatest: number): ArrayBuffer {
  const buffer = new ArrayBuffer(24 + 2 * parts.length + 2 * steps.length);
  const view = new DataView(buffer);
  [0x49, 0x4b, 0x43, 0x48].forEach((letter, i) => view.setUint8(i, letter)); // IKCH
  [1, parts.length, steps.length].forEach((n, i) => view.setUint32(4 + 4 * i, n, true));
  view.setFloat64(16, greatest, true);
  [...parts, ...steps].forEach((n, i) => view.setUint16(24 + 2 * i, n, true));
  return buffer;
}

const positions = new Float32Array([0, 0, 0, 4, 0, 0, 0, 4, 0, 4, 4, 0]);
const geometry = new THREE.BufferGeometry();
geometry.setAttribute("position", new THREE.BufferAttribute(positions, 3));
const skin = {
  positions,
  corners: new Uint32Array([0, 1, 2, 1, 3, 2]),
  starts: new Uint32Array([0, 2]),
  geometry,
} as unknown as Skin;

describe("what changed", () => {
  const changes = unpackChanges(packed([0, 2], [0, 65535, 32768, 0], 3));

  it("tells how many faces are new, and how far each part is", () => {
    expect([changes.fresh, changes.faces, changes.greatest]).toEqual([1, 2, 3]);
    expect([...changes.away].map((mm) => Number(mm.toFixed(3)))).toEqual([0, 3, 1.5, 0]);
  });

  it("tints every part of a new face, one that lies where it lay too, and nothing else", () => {
    const made = changesOf(skin, changes, ALL_SHOWN);
    const away = [...made.getAttribute("away").array];
    expect(away.slice(0, 3)).toEqual([-1, -1, -1]);
    expect(away).toHaveLength(3 * (1 + 4));
    expect(away.slice(3, 6)).toEqual([0, 0, 0]);
    expect(Math.min(...away.slice(3))).toBe(0);
    expect(made.getAttribute("position").count).toBe(15);
  });

  it("refuses what it does not know", () => {
    const other = packed([0], [], 0);
    new DataView(other).setUint32(4, 9, true);
    expect(() => unpackChanges(other)).toThrow("reload");
  });
});
