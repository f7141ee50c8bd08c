import * as THREE from "three";
import { MeshBVH } from "three-mesh-bvh";
import { describe, expect, it } from "vitest";
import { dividedFaces } from "./divided-faces";
import { partCount, readDivision } from "./face-division";
import { alongOf, sectionAt } from "./section";
import { ALL_SHOWN } from "./shells";
import { skinOf } from "./skin";
import { DepthLattice } from "./depth-lattice";
import { chartOf, DEEP, sampleAt, thinArea, unpackSoundings } from "./soundings";

/** Two triangles of legs 4 side by side: the first divided into four, the second whole. */
const skin = skinOf({
  positions: new Float32Array([0, 0, 0, 4, 0, 0, 0, 4, 0, 4, 4, 0]),
  corners: new Uint32Array([0, 1, 2, 3, 2, 1]),
  starts: new Uint32Array([0, 2]),
  coarse: null,
  middle: [10, 0, 0],
  low: [0, 0, 0],
  high: [4, 4, 0],
});

function packed(most: number, samples: [ball: number, ray: number, flags: number][]): ArrayBuffer {
  const buffer = new ArrayBuffer(24 + 4 + 5 * samples.length);
  const view = new DataView(buffer);
  Array.from("IKSD").forEach((c, i) => view.setUint8(i, c.charCodeAt(0)));
  [1, 2, samples.length].forEach((n, i) => view.setUint32(4 + 4 * i, n, true));
  view.setFloat64(16, most, true);
  [2, 1].forEach((k, i) => view.setUint16(24 + 2 * i, k, true));
  const steps = (mm: number) => Math.round((mm / most) * 65535);
  samples.forEach(([ball, ray, flags], i) => {
    view.setUint16(28 + 2 * i, steps(ball), true);
    view.setUint16(28 + 2 * samples.length + 2 * i, steps(ray), true);
    view.setUint8(28 + 4 * samples.length + i, flags);
  });
  return buffer;
}

const soundings = unpackSoundings(
  packed(2, [
    [0.5, 0.6, 3],
    [0.1, 0.7, 2],
    [0.1, 0.1, 0],
    [0.9, 2, 1],
    [2, 2, 0],
  ]),
);

describe("soundings", () => {
  it("unpack into the thickness that counts: the ball, else the ray, else none", () => {
    const wall = [...soundings.wall];
    [0.5, 0.7, DEEP, 0.9, DEEP].forEach((mm, i) => expect(wall[i]).toBeCloseTo(mm, 3));
    expect(soundings.ray[3]).toBe(DEEP);
    expect([...soundings.division.begin]).toEqual([0, 4, 5]);
    expect(() => unpackSoundings(new ArrayBuffer(64))).toThrow("does not know");
  });

  it.each([
    ["at the first corner", 0, [0.5, 0.5], 0],
    ["in the middle of the hanging one", 0, [1.5, 1.5], 1],
    ["at the third corner", 0, [0.5, 2.5], 2],
    ["at the second corner", 0, [2.5, 0.5], 3],
    ["in the whole face", 1, [3, 3], 4],
  ])("are found %s", (_, face, [x, y], sample) => {
    expect(sampleAt(skin, soundings, face, new THREE.Vector3(x, y, 0))).toBe(sample);
  });

  it("draw each sample as a triangle, the depths running on without steps", () => {
    const lattice = new DepthLattice(skin, soundings);
    const chart = chartOf(skin, soundings, lattice, ALL_SHOWN);
    const depth = [...chart.getAttribute("depth").array];
    const points = chart.getAttribute("position");
    expect(depth).toHaveLength(15);
    expect(depth[0]).toBeCloseTo(0.5, 3);
    // the middle of the first side: between 0.5, 0.7 and 0.9
    expect(depth[1]).toBeCloseTo(0.7, 3);
    // where no wall is, it is as deep as was measured, from the last wall on
    expect(depth[14]).toBeCloseTo(0.9, 3);
    expect(depth[12]).toBe(soundings.most);
    // at one point there is one depth, whichever part and face it belongs to
    const at = new Map<string, number>();
    depth.forEach((mm, i) => {
      const point = [points.getX(i), points.getY(i)].join(" ");
      expect(mm).toBeCloseTo(at.get(point) ?? mm, 5);
      at.set(point, mm);
    });
    expect(at.size).toBe(7);
    chart.computeBoundingBox();
    expect(chart.boundingBox!.max.toArray()).toEqual([4, 4, 0]);
    const hidden = chartOf(skin, soundings, lattice, { hidden: new Set([0]), only: null });
    expect(hidden.getAttribute("depth").count).toBe(0);
  });

  it("do not run on round a sharp edge", () => {
    // the second face stands up from the third side of the first
    const bent = skinOf({
      ...skin,
      positions: new Float32Array([0, 0, 0, 4, 0, 0, 0, 4, 0, 2, 2, 4]),
      middle: [0, 0, 0],
      low: [0, 0, 0],
      high: [4, 4, 4],
    });
    const lattice = new DepthLattice(bent, soundings);
    expect([...lattice.of(1)]).toEqual([2, 2, 2].map(() => soundings.most));
  });

  it("run along slim faces without steps, too", () => {
    // a strip 8 by 1 of two faces, each in eight rows from its short side; as deep as far along it
    const strip = skinOf({
      positions: new Float32Array([0, 0, 0, 8, 0, 0, 8, 1, 0, 0, 1, 0]),
      corners: new Uint32Array([0, 1, 2, 0, 2, 3]),
      starts: new Uint32Array([0, 2]),
      coarse: null,
      middle: [0, 0, 0],
      low: [0, 0, 0],
      high: [8, 1, 0],
    });
    const packed = Uint16Array.of(1, 1, 8 | (0 << 14), 8 | (1 << 14));
    const { division } = readDivision(packed.buffer, 0, 2, 2);
    const wall = new Float32Array(2 * partCount(1, 8));
    const parts = dividedFaces(strip, "part", division, ALL_SHOWN, (face) => (part) => {
      return division.begin[face]! + part;
    });
    const x = parts.getAttribute("position");
    parts.getAttribute("part").array.forEach((part, i) => (wall[part]! += x.getX(i) / 3));
    const along = { most: 8, division, wall, ball: wall, ray: wall };
    const chart = chartOf(strip, along, new DepthLattice(strip, along), ALL_SHOWN);
    const points = chart.getAttribute("position");
    expect(points.count).toBe(3 * wall.length);
    // exact but for the ends of the strip, where there is no part beyond
    chart.getAttribute("depth").array.forEach((depth, i) => {
      const inner = points.getX(i) > 1 && points.getX(i) < 7;
      expect(Math.abs(depth - points.getX(i))).toBeLessThan(inner ? 0.25 : 0.7);
    });
    expect(thinArea(strip, along, 4)).toBeCloseTo(4, 0);
  });

  it("tell how much skin is thinner than a limit", () => {
    expect(thinArea(skin, soundings, 0.4)).toBe(0);
    expect(thinArea(skin, soundings, 0.6)).toBeCloseTo(2);
    expect(thinArea(skin, soundings, 1)).toBeCloseTo(6);
  });
});

describe("a section", () => {
  it("cuts the skin in the plane of the normal and the way along", () => {
    const box = new THREE.BoxGeometry(4, 4, 1).toNonIndexed();
    const tree = new MeshBVH(box);
    const up = new THREE.Vector3(0, 0, 1);
    const u = alongOf(up);
    expect(u.dot(up)).toBeCloseTo(0);
    const { segments } = sectionAt(tree, new THREE.Vector3(0.3, 0.2, 0.5), up, u, 1);
    const heights = [...segments].filter((_, i) => i % 2).map((x) => Math.round(x * 10) / 10);
    expect(Math.max(...heights)).toBe(0);
    expect(Math.min(...heights)).toBe(-1);
  });
});
