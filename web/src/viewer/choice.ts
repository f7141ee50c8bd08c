import * as THREE from "three";
import type { MeshBVH } from "three-mesh-bvh";
import { cosineOf, type Neighbours, reached } from "./neighbours";
import { isHidden, shellAt, type Sight } from "./shells";
import { type Skin, triangleOf } from "./skin";

/** Chosen faces: one byte a face, 1 where it is chosen. Never changed once made. */
export type Choice = Uint8Array;

export const nothingOf = (skin: Skin): Choice => new Uint8Array(skin.corners.length / 3);

/** Faces added to a choice, or taken from it; the same choice if that changes nothing. */
export function withFaces(choice: Choice, faces: Iterable<number>, takes: boolean): Choice {
  let made: Choice | null = null;
  for (const face of faces) {
    if (choice[face] === (takes ? 0 : 1)) continue;
    made ??= choice.slice();
    made[face] = takes ? 0 : 1;
  }
  return made ?? choice;
}

/** A brush does not go round an edge to what looks the other way: beyond about 107 degrees. */
const TURNED = -0.3;

const triangle = new THREE.Triangle();
const nearest = new THREE.Vector3();

/** Faces within a radius of a point of the skin, as far as they hang together with its face. */
export function brushed(
  skin: Skin,
  near: Neighbours,
  seed: number,
  at: THREE.Vector3,
  radius: number,
): number[] {
  return reached(near, seed, (_, face) => {
    if (cosineOf(near, seed, face) < TURNED) return false;
    return (
      triangleOf(skin, face, triangle).closestPointToPoint(at, nearest).distanceTo(at) <= radius
    );
  });
}

/** Faces that hang together with one and lean from it by no more than an angle, degrees. */
export function flatFrom(near: Neighbours, seed: number, angle: number): number[] {
  const least = Math.cos((angle * Math.PI) / 180) - 1e-6;
  return reached(near, seed, (_, face) => cosineOf(near, seed, face) >= least);
}

/** Faces that hang together with one over edges bent by no more than an angle, degrees. */
export function smoothFrom(near: Neighbours, seed: number, angle: number): number[] {
  const least = Math.cos((angle * Math.PI) / 180) - 1e-6;
  return reached(near, seed, (from, face) => cosineOf(near, from, face) >= least);
}

/** All faces of the shell that a face belongs to. */
export function shellFrom(skin: Skin, seed: number): number[] {
  const shell = shellAt(skin.starts, seed);
  const from = skin.starts[shell]!;
  const to = skin.starts[shell + 1] ?? skin.corners.length / 3;
  return Array.from({ length: to - from }, (_, i) => from + i);
}

/** Faces that reach to both sides of a plane, from the middle of the skin. */
export function crossing({ positions, corners }: Skin, plane: THREE.Plane): number[] {
  const { x, y, z } = plane.normal;
  const over = new Uint8Array(positions.length / 3);
  for (let v = 0; v < over.length; v++) {
    const off =
      positions[3 * v]! * x +
      positions[3 * v + 1]! * y +
      positions[3 * v + 2]! * z +
      plane.constant;
    over[v] = off > 0 ? 1 : 0;
  }
  const found: number[] = [];
  for (let f = 0; f < corners.length / 3; f++) {
    const n = over[corners[3 * f]!]! + over[corners[3 * f + 1]!]! + over[corners[3 * f + 2]!]!;
    if (n === 1 || n === 2) found.push(f);
  }
  return found;
}

/** The choice with the faces beside it, or without those at its rim. */
export function stepped({ twins }: Neighbours, choice: Choice, grows: boolean): Choice {
  const made = choice.slice();
  for (let h = 0; h < twins.length; h++) {
    const face = (h / 3) | 0;
    if (choice[face] !== 1) continue;
    const twin = twins[h]!;
    const other = twin < 0 ? -1 : (twin / 3) | 0;
    if (grows) {
      if (other >= 0) made[other] = 1;
    } else if (other >= 0 && !choice[other]) {
      made[face] = 0;
    }
  }
  return made;
}

export const turnedOver = (choice: Choice): Choice => choice.map((one) => 1 - one);

/** Runs of chosen faces, as the server takes them: first, count, first, count, and so on. */
export function runsOf(choice: Choice): number[] {
  const runs: number[] = [];
  for (let f = 0; f < choice.length; f++) {
    if (!choice[f]) continue;
    const first = f;
    while (f < choice.length && choice[f]) f++;
    runs.push(first, f - first);
  }
  return runs;
}

export function choiceOf(runs: readonly number[], faces: number): Choice {
  const made = new Uint8Array(faces);
  for (let i = 0; i < runs.length; i += 2) made.fill(1, runs[i], runs[i]! + runs[i + 1]!);
  return made;
}

export type ChoiceSums = { count: number; area: number; pieces: number };

/** How many faces are chosen, their area in mm², and of how many pieces they are. */
export function sumsOf(skin: Skin, near: Neighbours, choice: Choice): ChoiceSums {
  let count = 0;
  let area = 0;
  let pieces = 0;
  let end = 0;
  for (let f = 0; f < choice.length; f++) {
    if (!choice[f]) continue;
    count++;
    area += near.areas[f]!;
    if (f < end) continue;
    // faces stand shell by shell
    const shell = shellAt(skin.starts, f);
    end = skin.starts[shell + 1] ?? choice.length;
    pieces++;
  }
  return { count, area, pieces };
}

/** Corners of the chosen faces, to be drawn. */
export function cornersOfChoice({ corners }: Skin, choice: Choice): Uint32Array {
  let count = 0;
  for (let f = 0; f < choice.length; f++) count += choice[f]!;
  const made = new Uint32Array(count * 3);
  let at = 0;
  for (let f = 0; f < choice.length; f++) {
    if (!choice[f]) continue;
    made[at++] = corners[3 * f]!;
    made[at++] = corners[3 * f + 1]!;
    made[at++] = corners[3 * f + 2]!;
  }
  return made;
}

/** A closed line on the screen, in the coordinates of a projection: x and y from -1 to 1. */
export type Outline = readonly (readonly [number, number])[];

function within(outline: Outline, x: number, y: number): boolean {
  let inside = false;
  for (let i = 0, j = outline.length - 1; i < outline.length; j = i++) {
    const [xi, yi] = outline[i]!;
    const [xj, yj] = outline[j]!;
    if (yi > y !== yj > y && x < ((xj - xi) * (y - yi)) / (yj - yi) + xi) inside = !inside;
  }
  return inside;
}

/** What faces an outline on the screen may take. */
export type Taking = {
  camera: THREE.Camera;
  sight: Sight;
  /** Faces cut away lie over this plane. */
  plane: THREE.Plane | null;
  /** Only what can be seen, or all through the body; null as long as the tree is not there. */
  tree: MeshBVH | null;
};

const RAYS = 20_000;

/**
 * Faces whose middles lie within an outline on the screen. With a tree, only those that can be
 * seen: that look this way and have nothing before them.
 *
 * Takes turns with the page: a hundred thousand rays take longer than a frame.
 */
export async function outlined(
  skin: Skin,
  near: Neighbours,
  outline: Outline,
  { camera, sight, plane, tree }: Taking,
): Promise<number[]> {
  const { positions, corners, starts } = skin;
  const [low, high] = [new THREE.Vector2(1e9, 1e9), new THREE.Vector2(-1e9, -1e9)];
  for (const [x, y] of outline) {
    low.min(new THREE.Vector2(x, y));
    high.max(new THREE.Vector2(x, y));
  }
  camera.updateMatrixWorld();
  const matrix = new THREE.Matrix4().multiplyMatrices(
    camera.projectionMatrix,
    camera.matrixWorldInverse,
  ).elements;
  const eye = new THREE.Vector3().setFromMatrixPosition(camera.matrixWorld);
  const middle = new THREE.Vector3();
  const ray = new THREE.Ray(eye.clone());
  const found: number[] = [];
  let rays = 0;
  for (let shell = 0; shell < starts.length; shell++) {
    if (shell + 1 < starts.length ? isHidden(sight, shell) : sight.only !== null) continue;
    const end = starts[shell + 1] ?? corners.length / 3;
    for (let f = starts[shell]!; f < end; f++) {
      middle.set(0, 0, 0);
      for (let k = 0; k < 3; k++) {
        const v = corners[3 * f + k]! * 3;
        middle.x += positions[v]! / 3;
        middle.y += positions[v + 1]! / 3;
        middle.z += positions[v + 2]! / 3;
      }
      const { x, y, z } = middle;
      const w = matrix[3] * x + matrix[7] * y + matrix[11] * z + matrix[15];
      if (w <= 0) continue;
      const px = (matrix[0] * x + matrix[4] * y + matrix[8] * z + matrix[12]) / w;
      const py = (matrix[1] * x + matrix[5] * y + matrix[9] * z + matrix[13]) / w;
      if (px < low.x || px > high.x || py < low.y || py > high.y) continue;
      if (plane && plane.distanceToPoint(middle) < 0) continue;
      if (!within(outline, px, py)) continue;
      if (tree) {
        ray.direction.subVectors(middle, eye);
        const away = ray.direction.length();
        ray.direction.divideScalar(away);
        const n = 3 * f;
        const facing =
          ray.direction.x * near.normals[n]! +
          ray.direction.y * near.normals[n + 1]! +
          ray.direction.z * near.normals[n + 2]!;
        if (facing >= 0) continue;
        if (!isFirst(skin, tree, ray, away, f, sight, plane)) continue;
        if (++rays % RAYS === 0) await new Promise((go) => setTimeout(go));
      }
      found.push(f);
    }
  }
  return found;
}

/** Whether nothing in sight stands before a face. */
function isFirst(
  skin: Skin,
  tree: MeshBVH,
  ray: THREE.Ray,
  away: number,
  face: number,
  sight: Sight,
  plane: THREE.Plane | null,
): boolean {
  const short = away * (1 - 1e-5);
  const simple = !plane && !sight.hidden.size && sight.only === null;
  if (simple) {
    const hit = tree.raycastFirst(ray, THREE.DoubleSide);
    return !hit || hit.faceIndex === face || hit.distance >= short;
  }
  return !tree
    .raycast(ray, THREE.DoubleSide, 0, short)
    .some(
      (hit) =>
        hit.faceIndex !== face &&
        !(plane && plane.distanceToPoint(hit.point) < 0) &&
        !isHidden(sight, shellAt(skin.starts, hit.faceIndex!)),
    );
}
