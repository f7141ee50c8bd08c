import * as THREE from "three";
import type { MeshBVH } from "three-mesh-bvh";
import { cutOf } from "./section";
import { isHidden, shellAt, type Sight } from "./shells";
import type { Skin } from "./skin";

/** Where a plane cuts a skin: six numbers a segment, from the middle of the skin. */
export type CutLines = Float32Array;

/** The lines in which a plane meets the faces in sight. */
export function cutLines(skin: Skin, tree: MeshBVH, plane: THREE.Plane, sight: Sight): CutLines {
  const found: number[] = [];
  tree.shapecast({
    intersectsBounds: (box) => box.intersectsPlane(plane),
    // eslint-disable-next-line @typescript-eslint/no-deprecated -- only where the tree is not a MeshBVH
    intersectsTriangle: (triangle, face) => {
      if (isHidden(sight, shellAt(skin.starts, face))) return false;
      for (const { x, y, z } of cutOf(triangle, plane)) found.push(x, y, z);
      return false;
    },
  });
  return new Float32Array(found);
}

/** The point of the lines that is nearest to a place: where, how far, and whether it is an end. */
export function nearestOn(
  lines: CutLines,
  at: THREE.Vector3,
): { at: THREE.Vector3; away: number; index: number } | null {
  let best: { at: THREE.Vector3; away: number; index: number } | null = null;
  const line = new THREE.Line3();
  const point = new THREE.Vector3();
  for (let i = 0; i < lines.length; i += 6) {
    line.start.fromArray(lines, i);
    line.end.fromArray(lines, i + 3);
    line.closestPointToPoint(at, true, point);
    const away = point.distanceTo(at);
    if (!best || away < best.away) best = { at: point.clone(), away, index: i };
  }
  return best;
}

/**
 * How wide what a place of the cut lies in is: from the nearest line through the place to the next
 * one; null where there is no other side.
 */
export function widthAt(
  lines: CutLines,
  at: THREE.Vector3,
  normal: THREE.Vector3,
): [THREE.Vector3, THREE.Vector3] | null {
  const near = nearestOn(lines, at);
  if (!near) return null;
  const from = near.at;
  const way = at.clone().sub(from);
  if (way.length() < 1e-9) return null;
  way.normalize();
  const side = new THREE.Vector3().crossVectors(normal, way);
  const [p, q] = [new THREE.Vector3(), new THREE.Vector3()];
  let least = Infinity;
  for (let i = 0; i < lines.length; i += 6) {
    p.fromArray(lines, i).sub(from);
    q.fromArray(lines, i + 3).sub(from);
    const [a, b] = [p.dot(side), q.dot(side)];
    if (a > 0 === b > 0) continue;
    const along = p.dot(way) + ((q.dot(way) - p.dot(way)) * a) / (a - b);
    if (along > near.away * (1 + 1e-6) && along < least) least = along;
  }
  return Number.isFinite(least) ? [from, from.clone().addScaledVector(way, least)] : null;
}

/** The closed line that runs through a segment: its corners, without those on straight parts. */
export function ringThrough(lines: CutLines, index: number): THREE.Vector3[] {
  const key = (i: number) => [0, 1, 2].map((k) => Math.round(lines[i + k]! * 1e4)).join(" ");
  const ends = new Map<string, number[]>();
  for (let i = 0; i < lines.length; i += 3) {
    const at = key(i);
    const there = ends.get(at);
    if (there) there.push(i);
    else ends.set(at, [i]);
  }
  const other = (i: number) => (i % 6 === 0 ? i + 3 : i - 3);
  const ring: number[] = [];
  let i = index;
  for (let steps = 0; steps < lines.length / 6; steps++) {
    ring.push(i);
    const onward = other(i);
    const next = ends.get(key(onward))!.find((j) => j !== onward && key(other(j)) !== key(onward));
    if (next === undefined || next === index) break;
    i = next;
  }
  const points = ring.map((at) => new THREE.Vector3().fromArray(lines, at));
  return points.filter((point, k) => {
    const back = point.clone().sub(points.at(k - 1)!);
    const on = points[(k + 1) % points.length]!.clone().sub(point);
    return back.angleTo(on) > 1e-3;
  });
}
