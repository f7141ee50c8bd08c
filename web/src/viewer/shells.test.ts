import * as THREE from "three";
import { MeshBVH } from "three-mesh-bvh";
import { beforeAll, describe, expect, it } from "vitest";
import { pick } from "./picking";
import {
  ALL_SHOWN,
  boxOf,
  cornersInSight,
  isHidden,
  shellAt,
  type Sight,
  waysApart,
} from "./shells";
import { type Skin, skinOf } from "./skin";

const sight = (only: number | null, ...hidden: number[]): Sight => ({
  hidden: new Set(hidden),
  only,
});

/** Three squares across x, one behind the other at z = 2, 1 and 0, each a shell of two faces. */
function squares(): Skin {
  const positions: number[] = [];
  const corners: number[] = [];
  [2, 1, 0].forEach((z, i) => {
    positions.push(-1, -1, z, 1, -1, z, 1, 1, z, -1, 1, z);
    corners.push(...[0, 1, 2, 0, 2, 3].map((v) => v + 4 * i));
  });
  return skinOf({
    positions: new Float32Array(positions),
    corners: new Uint32Array(corners),
    starts: new Uint32Array([0, 2, 4, 6]),
    coarse: null,
    middle: [10, 0, 0],
    low: [-1, -1, 0],
    high: [1, 1, 2],
  });
}

describe("faces and shells", () => {
  it.each([
    [0, 0],
    [1, 0],
    [2, 1],
    [5, 2],
    [6, 3],
  ])("face %i is in shell %i", (face, shell) => {
    expect(shellAt(new Uint32Array([0, 2, 4, 6]), face)).toBe(shell);
  });

  it.each<[string, Sight, number[]]>([
    ["all", ALL_SHOWN, [0, 1, 2]],
    ["all but the first", sight(null, 0), [1, 2]],
    ["all but the ends", sight(null, 2, 0), [1]],
    ["none", sight(null, 0, 1, 2), []],
    ["one only", sight(1), [1]],
    ["one only, though it was hidden", sight(1, 1), [1]],
    ["one that another revision had hidden", sight(null, 7), [0, 1, 2]],
  ])("in sight: %s", (_, given, shown) => {
    const skin = squares();
    const expected = shown.flatMap((s) => [...skin.corners.slice(s * 6, s * 6 + 6)]);
    expect([...cornersInSight(skin, given)]).toEqual(expected);
    expect([0, 1, 2].filter((s) => !isHidden(given, s))).toEqual(shown);
  });

  it("the box of a shell is in the model's own millimetres", () => {
    expect(boxOf(squares(), 1)).toEqual([
      [9, -1, 1],
      [11, 1, 1],
    ]);
  });

  it("each shell has a tint, and its neighbour another", () => {
    const tint = squares().geometry.getAttribute("tint");
    expect([0, 4, 8].map((v) => tint.getX(v))).toEqual([0, 1, 2]);
  });
});

describe("picking", () => {
  let skin: Skin;
  let tree: MeshBVH;
  beforeAll(() => {
    skin = squares();
    tree = new MeshBVH(skin.geometry, { indirect: true });
  });
  const down = (x: number, y: number) =>
    new THREE.Ray(new THREE.Vector3(x, y, 9), new THREE.Vector3(0, 0, -1));

  it.each<[string, Sight, number | null]>([
    ["the nearest", ALL_SHOWN, 0],
    ["what a hidden one covered", sight(null, 0), 1],
    ["the only one in sight", sight(2), 2],
    ["nothing where all is hidden", sight(null, 0, 1, 2), null],
  ])("finds %s", (_, given, shell) => {
    const hit = pick(skin, tree, down(0.5, 0.2), given);
    expect(hit?.shell ?? null).toBe(shell);
    const at = hit?.at.distanceTo(new THREE.Vector3(10.5, 0.2, 2 - (shell ?? 0))) ?? 0;
    expect(at).toBeLessThan(1e-6);
  });

  it("tells the two faces of a square apart, whatever order the tree has", () => {
    expect(pick(skin, tree, down(0.5, -0.5), sight(1))?.face).toBe(2);
    expect(pick(skin, tree, down(-0.5, 0.5), sight(1))?.face).toBe(3);
  });

  it("finds nothing beside the model", () => {
    expect(pick(skin, tree, down(3, 0), ALL_SHOWN)).toBeNull();
  });
});

describe("shells pulled apart", () => {
  it("go off the middle, and what lies in one goes with it", () => {
    const way = (roots: number[], shell: number) =>
      [...waysApart(squares(), roots).slice(shell * 12, shell * 12 + 3)].map((x) => x + 0);
    expect([0, 1, 2].map((shell) => way([0, 1, 2], shell))).toEqual([
      [0, 0, 1],
      [0, 0, 0],
      [0, 0, -1],
    ]);
    expect(way([0, 1, 0], 2)).toEqual([0, 0, 1]);
  });
});
