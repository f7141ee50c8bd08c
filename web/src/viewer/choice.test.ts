import * as THREE from "three";
import { describe, expect, it } from "vitest";
import { faceAt, skinFrom, tube } from "../tests/solids";
import {
  brushed,
  choiceOf,
  crossing,
  flatFrom,
  nothingOf,
  outlined,
  runsOf,
  shellFrom,
  smoothFrom,
  stepped,
  sumsOf,
  turnedOver,
  withFaces,
} from "./choice";
import { ALL_SHOWN } from "./shells";

const plate = () => skinFrom(new THREE.BoxGeometry(20, 20, 1, 40, 40, 2));
const areaOf = ({ near }: ReturnType<typeof skinFrom>, faces: readonly number[]) =>
  faces.reduce((sum, f) => sum + near.areas[f]!, 0);
const heights = ({ skin }: ReturnType<typeof skinFrom>, faces: readonly number[]) =>
  faces.flatMap((f) => [0, 1, 2].map((k) => skin.positions[skin.corners[3 * f + k]! * 3 + 2]!));

describe("a brush", () => {
  it("takes what is within its radius, and not the other side of a wall", () => {
    const solid = plate();
    const at = new THREE.Vector3(2.1, -3.2, 0.5);
    const faces = brushed(solid.skin, solid.near, faceAt(solid.skin, 2.1, -3.2, 0.5), at, 3);
    expect(Math.min(...heights(solid, faces))).toBe(0.5);
    const area = areaOf(solid, faces);
    // every face that it touches: the disc, and less than a face's longest side around
    expect(area).toBeGreaterThan(Math.PI * 9);
    expect(area).toBeLessThan(Math.PI * 3.8 ** 2);
  });

  it("goes no further round an edge than to what looks sideways", () => {
    const solid = plate();
    const at = new THREE.Vector3(9.9, 0, 0.5);
    const faces = brushed(solid.skin, solid.near, faceAt(solid.skin, 9.9, 0, 0.5), at, 3);
    const down = faces.filter((f) => solid.near.normals[3 * f + 2]! < -0.5);
    expect(down).toEqual([]);
    expect(faces.some((f) => solid.near.normals[3 * f]! > 0.5)).toBe(true);
  });
});

describe("what hangs together", () => {
  it("is flat up to its edges", () => {
    const solid = plate();
    const faces = flatFrom(solid.near, faceAt(solid.skin, 0, 0, 0.5), 5);
    expect(areaOf(solid, faces)).toBeCloseTo(400, 3);
  });

  it("is smooth up to edges, however far it bends", () => {
    const solid = skinFrom(tube(10, 8, 25));
    const outer = smoothFrom(solid.near, faceAt(solid.skin, 10, 0, 0), 20);
    const facets = 96 * 2 * 10 * Math.sin(Math.PI / 96) * 25;
    expect(areaOf(solid, outer)).toBeCloseTo(facets, 1);
    const end = smoothFrom(solid.near, faceAt(solid.skin, 9, 0, 12.5), 20);
    expect(new Set(heights(solid, end))).toEqual(new Set([12.5]));
  });

  it("is a shell", () => {
    const solid = skinFrom(
      new THREE.BoxGeometry(2, 2, 2),
      new THREE.BoxGeometry(1, 1, 1).translate(9, 0, 0),
    );
    expect(shellFrom(solid.skin, 13)).toEqual(Array.from({ length: 12 }, (_, i) => 12 + i));
  });
});

describe("a choice", () => {
  const solid = plate();
  const { skin, near } = solid;
  const some = withFaces(nothingOf(skin), flatFrom(near, faceAt(skin, 0, 0, 0.5), 5), false);

  it("is never changed, only made anew", () => {
    const none = nothingOf(skin);
    expect(withFaces(none, [3], false)).not.toBe(none);
    expect(none[3]).toBe(0);
    expect(withFaces(none, [3], true)).toBe(none);
  });

  it("tells its count, area and pieces", () => {
    const sums = sumsOf(skin, near, some);
    expect(sums.count).toBe(40 * 40 * 2);
    expect(sums.area).toBeCloseTo(400, 3);
    expect(sums.pieces).toBe(1);
    const two = skinFrom(new THREE.BoxGeometry(), new THREE.BoxGeometry().translate(4, 0, 0));
    const both = withFaces(nothingOf(two.skin), [0, 11, 12], false);
    expect(sumsOf(two.skin, two.near, both)).toMatchObject({ count: 3, pieces: 2 });
  });

  it("grows by the faces beside it and shrinks to where it was", () => {
    const grown = stepped(near, some, true);
    expect(sumsOf(skin, near, grown).count).toBe(40 * 40 * 2 + 4 * 40);
    expect(stepped(near, grown, false)).toEqual(some);
  });

  it("is turned over, and travels by runs", () => {
    const others = turnedOver(some);
    expect(sumsOf(skin, near, others).count + 3200).toBe(some.length);
    for (const one of [some, others, nothingOf(skin), turnedOver(nothingOf(skin))]) {
      expect(choiceOf(runsOf(one), one.length)).toEqual(one);
    }
    expect(runsOf(choiceOf([2, 3, 9, 1], 12))).toEqual([2, 3, 9, 1]);
  });

  it("takes what crosses a plane", () => {
    const faces = crossing(skin, new THREE.Plane(new THREE.Vector3(1, 0, 0), -0.2));
    // a column of squares over and under the plate, and the strips at its two ends
    expect(faces).toHaveLength(2 * 40 * 2 + 2 * 2 * 2);
  });
});

describe("what is drawn round", () => {
  const solid = plate();
  const camera = new THREE.PerspectiveCamera(30, 1, 0.1, 200);
  camera.position.set(0, 0, 60);
  camera.lookAt(0, 0, 0);
  const square: [number, number][] = [
    [-0.9, -0.9],
    [0.9, -0.9],
    [0.9, 0.9],
    [-0.9, 0.9],
  ];
  const taking = { camera, sight: ALL_SHOWN, plane: null };

  it("is what can be seen, or all through the body", async () => {
    const seen = await outlined(solid.skin, solid.near, square, { ...taking, tree: solid.tree });
    expect(seen).toHaveLength(3200);
    expect(Math.min(...heights(solid, seen))).toBe(0.5);
    const all = await outlined(solid.skin, solid.near, square, { ...taking, tree: null });
    expect(all).toHaveLength(solid.skin.corners.length / 3);
  });

  it("sees what a cut lays open", async () => {
    const plane = new THREE.Plane(new THREE.Vector3(0, 0, -1), 0);
    const given = { ...taking, plane, tree: solid.tree };
    const seen = await outlined(solid.skin, solid.near, square, given);
    // the top is away; the bottom looks the other way
    expect(seen).toEqual([]);
  });

  it("is only what lies within", async () => {
    const right: [number, number][] = square.map(([x, y]) => [Math.max(0, x), y]);
    const seen = await outlined(solid.skin, solid.near, right, { ...taking, tree: solid.tree });
    expect(seen).toHaveLength(1600);
  });
});
