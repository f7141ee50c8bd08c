import * as THREE from "three";
import { describe, expect, it } from "vitest";
import { faceAt, skinFrom, tube } from "../tests/solids";
import { cutLines, widthAt } from "../viewer/outline";
import { pick } from "../viewer/picking";
import { type Pick, snap } from "../viewer/picks";
import { cylinderAt, roundEdge } from "../viewer/rounds";
import { ALL_SHOWN } from "../viewer/shells";
import { cutThrough, planeThrough, rangeOf } from "./cut";
import { angleOf, distanceOf, roundInCut, roundOf, sumsOfShell, throughOf } from "./measure";

type Solid = ReturnType<typeof skinFrom>;
const SIZE = { width: 800, height: 600 };

function cameraAt(x: number, y: number, z: number): THREE.PerspectiveCamera {
  const camera = new THREE.PerspectiveCamera(32, SIZE.width / SIZE.height, 0.1, 500);
  camera.up.set(0, 0, 1);
  camera.position.set(x, y, z);
  camera.lookAt(0, 0, 0);
  camera.updateMatrixWorld();
  return camera;
}

/** What a click on a place of the model takes, from the middle of the skin. */
function picked(
  { skin, near, tree }: Solid,
  place: [number, number, number],
  camera: THREE.Camera,
  { plane = null as THREE.Plane | null, centres = false } = {},
): Pick {
  const ray = new THREE.Ray(camera.position.clone());
  ray.lookAt(new THREE.Vector3(...place));
  const hit = pick(skin, tree, ray, ALL_SHOWN, plane)!;
  const lines = plane && cutLines(skin, tree, plane, ALL_SHOWN);
  return snap(hit, { skin, near, camera, size: SIZE, lines, plane, centres });
}

const called = (one: Pick) => one.to;

describe("picks", () => {
  const box = skinFrom(new THREE.BoxGeometry(20, 12, 6, 4, 4, 4));
  const camera = cameraAt(30, -40, 35);

  it.each([
    [[9.9, -5.95, 2.95], "corner", [10, -6, 3]],
    [[7.4, -5.98, 2.98], "edge", null],
    [[2.45, -5.98, 2.98], "edge", null],
    [[-0.03, 0.02, 3], "corner", [0, 0, 3]],
    [[6.2, 1.7, 3], "face", null],
  ] as const)("snap where they are meant to: %s", (place, to, at) => {
    const found = picked(box, [...place], camera);
    expect(found.to).toBe(to);
    if (at) {
      const local = found.at.clone().sub(box.skin.middle).toArray();
      at.forEach((x, k) => expect(local[k]).toBeCloseTo(x, 5));
    }
  });

  it("snap to the middle of a flat face, however it is divided", () => {
    const other = skinFrom(new THREE.BoxGeometry(20, 12, 6, 3, 3, 3));
    const found = picked(other, [0.1, 0.1, 3], camera);
    expect(found.to).toBe("middle of a face");
    expect(
      found.at.distanceTo(other.skin.middle.clone().add(new THREE.Vector3(0, 0, 3))),
    ).toBeLessThan(1e-5);
  });

  it("snap to the middle of an edge, however it is divided", () => {
    const other = skinFrom(new THREE.BoxGeometry(20, 12, 6, 3, 3, 3));
    const found = picked(other, [0.1, -5.98, 2.98], camera);
    expect(found.to).toBe("middle of an edge");
    expect(found.at.x).toBeCloseTo(100, 4);
  });

  it("measure distances and angles", () => {
    const a = picked(box, [9.95, -5.95, 2.95], camera);
    const b = picked(box, [-9.95, -5.95, 2.95], camera);
    const along = distanceOf(a, b, called);
    expect(along.value).toBeCloseTo(20, 5);
    expect(along.between).toBe("corner to corner");
    const top = picked(box, [6.2, 1.7, 3], camera);
    const front = picked(box, [1.2, -6, 0.7], camera);
    expect(angleOf(top, front, called).value).toBeCloseTo(90, 4);
    const edge = picked(box, [7.1, -5.98, 2.98], camera);
    expect(angleOf(edge, top, called).value).toBeCloseTo(0, 4);
    const side = picked(box, [10, 1.2, 0.8], camera);
    expect(angleOf(edge, side, called).value).toBeCloseTo(90, 4);
  });
});

describe("what is round", () => {
  const solid = skinFrom(tube(10, 8, 25));
  const { skin, near } = solid;

  it.each([
    [10, 20],
    [8, 16],
  ])("is measured on the cylinder of radius %i", (radius, diameter) => {
    const face = faceAt(skin, radius, 0.2, 1);
    const round = cylinderAt(skin, near, face)!;
    expect(2 * round.radius).toBeCloseTo(diameter, 3);
    expect(Math.abs(round.axis.z)).toBeCloseTo(1, 6);
    const told = roundOf({ at: new THREE.Vector3(110, -20, 6) } as Pick, round, skin, "x");
    expect(told.value).toBeCloseTo(diameter, 3);
  });

  it("is measured on its edges, and gives its centre", () => {
    const halves = Array.from(skin.corners, (_, h) => h);
    const found = halves
      .map((h) => roundEdge(skin, near, h))
      .filter((one) => one !== null)
      .map((one) => (2 * one.radius).toFixed(2));
    expect(new Set(found)).toEqual(new Set(["20.00", "16.00"]));
    const top = picked(solid, [9.98, 0.05, 12.5], cameraAt(20, -10, 60), { centres: true });
    expect(top.to).toBe("centre of a round edge");
    expect(top.at.distanceTo(new THREE.Vector3(100, -20, 17.5))).toBeLessThan(1e-3);
  });

  it("is nothing on a box", () => {
    const box = skinFrom(new THREE.BoxGeometry(20, 12, 6));
    expect(cylinderAt(box.skin, box.near, 0)).toBeNull();
    expect(roundEdge(box.skin, box.near, 0)).toBeNull();
  });
});

describe("in a cut", () => {
  const solid = skinFrom(tube(10, 8, 25));
  const camera = cameraAt(2, -3, 60);
  // what is over the plane is away
  const plane = new THREE.Plane(new THREE.Vector3(0, 0, -1), 3.7);
  const lines = cutLines(solid.skin, solid.tree, plane, ALL_SHOWN);

  it("a tube's wall and bore are read within a hundredth of a millimetre", () => {
    const wall = picked(solid, [9.0, 0.1, 3.7], camera, { plane });
    expect(wall.to).toBe("cut");
    const through = throughOf(wall, solid.skin, () => null, lines)!;
    expect(Math.abs(through.value - 2)).toBeLessThan(0.01);
    const inner = picked(solid, [8.02, 0.1, 3.7], camera, { plane });
    expect(inner.to).toMatch(/of the cut$/);
    const bore = roundInCut(lines, inner, solid.skin)!;
    expect(Math.abs(2 * bore.radius - 16)).toBeLessThan(0.01);
    const outer = roundInCut(
      lines,
      { ...inner, at: new THREE.Vector3(109.9, -20, 8.7) },
      solid.skin,
    )!;
    expect(Math.abs(2 * outer.radius - 20)).toBeLessThan(0.01);
  });

  it("the air across a bore is measured from wall to wall", () => {
    const ends = widthAt(lines, new THREE.Vector3(3, 0.1, 3.7), plane.normal)!;
    expect(Math.abs(ends[0].distanceTo(ends[1]) - 16)).toBeLessThan(0.02);
  });

  it("what is cut away is not picked, and voids are open", () => {
    const ray = new THREE.Ray(camera.position.clone());
    ray.lookAt(new THREE.Vector3(1, 0.2, 3.7));
    expect(pick(solid.skin, solid.tree, ray, ALL_SHOWN, plane)).toBeNull();
    const top = picked(solid, [9, 0.1, 12.5], camera);
    expect(top.at.z).toBeCloseTo(17.5, 5);
  });

  it("its plane goes from one end of the model to the other", () => {
    expect(rangeOf(solid.skin, [0, 0, -1])).toEqual([-17.5, 7.5]);
    const { plane: through } = cutThrough(solid.skin, "y");
    expect(through).toEqual({ normal: [0, 1, 0], offset: -20 });
    const three = planeThrough([
      new THREE.Vector3(0, 0, 4),
      new THREE.Vector3(1, 0, 4),
      new THREE.Vector3(0, 1, 4),
    ]);
    expect(three).toEqual({ normal: [0, 0, 1], offset: 4 });
    expect(planeThrough([0, 1, 2].map((x) => new THREE.Vector3(x, 0, 0)))).toBeNull();
  });
});

it("a piece is measured as it is", () => {
  const { skin, near } = skinFrom(new THREE.BoxGeometry(20, 12, 6, 3, 2, 2));
  const sums = sumsOfShell(skin, near, 0);
  expect(sums.volume).toBeCloseTo(1440, 3);
  expect(sums.area).toBeCloseTo(2 * (240 + 120 + 72), 3);
  expect(sums.sides.map((x) => Number(x.toFixed(4)))).toEqual([20, 12, 6]);
  const sheet = skinFrom(new THREE.PlaneGeometry(20, 12));
  expect(sumsOfShell(sheet.skin, sheet.near, 0).volume).toBeNull();
});
