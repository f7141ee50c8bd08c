import * as THREE from "three";
import { isBent, type Neighbours, next, reached } from "./neighbours";
import { cornerAt, type Skin } from "./skin";

/** A circle: of a round edge, a cylinder or a round line of a cut. From the middle of the skin. */
export type Round = {
  centre: THREE.Vector3;
  axis: THREE.Vector3;
  radius: number;
  /** How far the points that it was laid through are from it at most, mm. */
  off: number;
};

/** Points that are further from a circle than this share of its radius are no circle. */
const OFF = 0.02;
const LEAST = 5;

/** The direction in which points spread least, and their middle. */
function planeOf(points: readonly THREE.Vector3[]): { at: THREE.Vector3; normal: THREE.Vector3 } {
  const at = new THREE.Vector3();
  for (const point of points) at.add(point);
  at.divideScalar(points.length);
  return { at, normal: leastOf(points.map((point) => point.clone().sub(at))) };
}

/** The direction that vectors have least of: the smallest eigenvector of their squares. */
export function leastOf(vectors: readonly THREE.Vector3[]): THREE.Vector3 {
  const m = [0, 0, 0, 0, 0, 0];
  for (const { x, y, z } of vectors) {
    m[0]! += x * x;
    m[1]! += x * y;
    m[2]! += x * z;
    m[3]! += y * y;
    m[4]! += y * z;
    m[5]! += z * z;
  }
  const [xx, xy, xz, yy, yz, zz] = m as [number, number, number, number, number, number];
  // by turns of Jacobi: three numbers off the diagonal vanish in some rounds
  const a = [
    [xx, xy, xz],
    [xy, yy, yz],
    [xz, yz, zz],
  ];
  const v = [
    [1, 0, 0],
    [0, 1, 0],
    [0, 0, 1],
  ];
  for (let round = 0; round < 24; round++) {
    for (const [p, q] of [
      [0, 1],
      [0, 2],
      [1, 2],
    ] as const) {
      if (Math.abs(a[p]![q]!) < 1e-300) continue;
      const theta = (a[q]![q]! - a[p]![p]!) / (2 * a[p]![q]!);
      const t = (theta >= 0 ? 1 : -1) / (Math.abs(theta) + Math.hypot(theta, 1));
      const c = 1 / Math.hypot(t, 1);
      const s = t * c;
      for (let k = 0; k < 3; k++) {
        const [kp, kq] = [a[k]![p]!, a[k]![q]!];
        a[k]![p] = c * kp - s * kq;
        a[k]![q] = s * kp + c * kq;
      }
      for (let k = 0; k < 3; k++) {
        const [pk, qk] = [a[p]![k]!, a[q]![k]!];
        a[p]![k] = c * pk - s * qk;
        a[q]![k] = s * pk + c * qk;
        const [vp, vq] = [v[k]![p]!, v[k]![q]!];
        v[k]![p] = c * vp - s * vq;
        v[k]![q] = s * vp + c * vq;
      }
    }
  }
  const least = [0, 1, 2].reduce((best, k) => (a[k]![k]! < a[best]![best]! ? k : best), 0);
  return new THREE.Vector3(v[0]![least], v[1]![least], v[2]![least]).normalize();
}

/** The circle that fits points seen along an axis; null where none does. */
export function circleAlong(
  points: readonly THREE.Vector3[],
  axis: THREE.Vector3,
  at: THREE.Vector3,
): Round | null {
  if (points.length < LEAST) return null;
  const u = new THREE.Vector3(Math.abs(axis.x) < 0.9 ? 1 : 0, Math.abs(axis.x) < 0.9 ? 0 : 1, 0)
    .cross(axis)
    .normalize();
  const v = new THREE.Vector3().crossVectors(axis, u);
  const flat = points.map((point) => {
    const away = point.clone().sub(at);
    return [away.dot(u), away.dot(v)] as const;
  });
  // least squares of x² + y² = 2 a x + 2 b y + c, about the mean so that it is well conditioned
  const n = flat.length;
  const mx = flat.reduce((sum, [x]) => sum + x, 0) / n;
  const my = flat.reduce((sum, [, y]) => sum + y, 0) / n;
  let [sxx, sxy, syy, sxz, syz, sz] = [0, 0, 0, 0, 0, 0];
  for (const [px, py] of flat) {
    const [x, y] = [px - mx, py - my];
    const z = x * x + y * y;
    sxx += x * x;
    sxy += x * y;
    syy += y * y;
    sxz += x * z;
    syz += y * z;
    sz += z;
  }
  const det = sxx * syy - sxy * sxy;
  if (Math.abs(det) < 1e-12 * (sxx + syy) ** 2) return null;
  const a = (sxz * syy - syz * sxy) / (2 * det);
  const b = (syz * sxx - sxz * sxy) / (2 * det);
  const radius = Math.sqrt(sz / n + a * a + b * b);
  const off = Math.max(
    ...flat.map(([x, y]) => Math.abs(Math.hypot(x - mx - a, y - my - b) - radius)),
  );
  if (!(off <= OFF * radius)) return null;
  const centre = at
    .clone()
    .addScaledVector(u, mx + a)
    .addScaledVector(v, my + b);
  return { centre, axis: axis.clone(), radius, off };
}

/** The circle through points that lie in a plane. */
export function circleThrough(points: readonly THREE.Vector3[]): Round | null {
  if (points.length < LEAST) return null;
  const { at, normal } = planeOf(points);
  const round = circleAlong(points, normal, at);
  if (!round) return null;
  const height = Math.max(...points.map((p) => Math.abs(p.clone().sub(at).dot(normal))));
  return height <= OFF * round.radius ? round : null;
}

const MOST = 20_000;
const SHARP = Math.cos((20 * Math.PI) / 180);

export const isSharp = (near: Neighbours, half: number) => isBent(near, half, SHARP);

/** The sharp half-edge that goes on where one ends, or begins with `before`; null where none does. */
function onwardFrom(near: Neighbours, half: number, step: (h: number) => number): number | null {
  let onward = step(half);
  for (let turn = 0; !isSharp(near, onward); turn++) {
    if (turn > 200) return null;
    onward = step(near.twins[onward]!);
  }
  return onward;
}

/** The corners of the sharp rim that runs through a half-edge, along the face that it is of. */
function rimThrough(near: Neighbours, start: number): number[] | null {
  const rim = [start];
  let h = start;
  for (let steps = 0; steps < MOST; steps++) {
    const onward = onwardFrom(near, h, next);
    if (onward === null) return null;
    if (onward === start) return rim;
    rim.push(onward);
    h = onward;
  }
  return null;
}

const before = (h: number) => (h % 3 === 0 ? h + 2 : h - 1);
/** Edges that turn by less than this, radians, are one straight edge. */
const STRAIGHT = 0.01;

/**
 * The ends of the straight edge that a half-edge is a part of, however it is divided; its own
 * where it is not sharp.
 */
export function straightEdge(
  skin: Skin,
  near: Neighbours,
  half: number,
): [THREE.Vector3, THREE.Vector3] {
  const ends = (h: number) => [cornerAt(skin, h), cornerAt(skin, next(h))] as const;
  const [from, to] = ends(half);
  if (!isSharp(near, half)) return [from, to];
  const way = to.clone().sub(from);
  const goesOn = (h: number) => {
    const [a, b] = ends(h);
    return b.sub(a).angleTo(way) < STRAIGHT;
  };
  const walk = (step: (h: number) => number) => {
    let h = half;
    for (let steps = 0; steps < MOST; steps++) {
      const onward = onwardFrom(near, h, step);
      if (onward === null || onward === half || !goesOn(onward)) return h;
      h = onward;
    }
    return h;
  };
  return [ends(walk(before))[0], ends(walk(next))[1]];
}

/** The circle of a round edge. */
export function roundEdge(skin: Skin, near: Neighbours, half: number): Round | null {
  if (!isSharp(near, half)) return null;
  const rim = rimThrough(near, half);
  return rim && circleThrough(rim.map((corner) => cornerAt(skin, corner)));
}

/** How much faces of a cylinder may lean along its axis: about a degree. */
const ALONG = 0.02;
/** Faces that lean from one another by less, radians, give no axis; so many are looked at. */
const LEANS = 0.02;
const NEAREST = 400;

/** The cylinder that a face belongs to, through the corners of its faces. */
export function cylinderAt(skin: Skin, near: Neighbours, seed: number): Round | null {
  const normal = (f: number) => new THREE.Vector3().fromArray(near.normals, 3 * f);
  const goesSmooth = (_: number, __: number, half: number) => !isSharp(near, half);
  // the axis, from the nearest face that leans from it, over edges that are not sharp
  const first = normal(seed);
  const lean = reached(near, seed, goesSmooth, NEAREST)
    .map((face) => first.clone().cross(normal(face)))
    .find((across) => across.length() > LEANS);
  if (!lean) return null;
  const along = (axis: THREE.Vector3) =>
    reached(
      near,
      seed,
      (_, to, half) => !isSharp(near, half) && Math.abs(normal(to).dot(axis)) <= ALONG,
      MOST,
    );
  // once more about the axis that all of them have
  const faces = along(leastOf(along(lean.normalize()).map(normal)));
  const corners = new Set(faces.flatMap((f) => [0, 1, 2].map((k) => skin.corners[3 * f + k]!)));
  const points = [...corners].map((v) => new THREE.Vector3().fromArray(skin.positions, v * 3));
  const middle = new THREE.Vector3();
  for (const point of points) middle.add(point);
  return circleAlong(points, leastOf(faces.map(normal)), middle.divideScalar(points.length));
}
