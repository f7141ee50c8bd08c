import * as THREE from "three";
import type { MeshBVH } from "three-mesh-bvh";

/** A cut through a mesh about a point: across along `u`, up along the surface's normal. */
export type Section = {
  /** Four numbers a segment: across and up of either end, mm. */
  segments: Float32Array;
  /** Half of what is in the window, mm. */
  reach: number;
};

/** The two ends of the line in which a plane cuts a triangle; none where it does not. */
export function cutOf({ a, b, c }: THREE.Triangle, plane: THREE.Plane): THREE.Vector3[] {
  const ends: THREE.Vector3[] = [];
  for (const [from, to] of [
    [a, b],
    [b, c],
    [c, a],
  ] as const) {
    if (plane.distanceToPoint(from) > 0 === plane.distanceToPoint(to) > 0) continue;
    const end = plane.intersectLine(new THREE.Line3(from, to), new THREE.Vector3());
    if (end) ends.push(end);
  }
  return ends.length === 2 ? ends : [];
}

/** Cut a mesh by the plane through a point that holds its normal and `u`. */
export function sectionAt(
  tree: MeshBVH,
  at: THREE.Vector3,
  normal: THREE.Vector3,
  u: THREE.Vector3,
  reach: number,
): Section {
  const across = new THREE.Vector3().crossVectors(u, normal).normalize();
  const plane = new THREE.Plane().setFromNormalAndCoplanarPoint(across, at);
  const window = new THREE.Sphere(at, reach * Math.SQRT2 * 1.1);
  const found: number[] = [];
  tree.shapecast({
    intersectsBounds: (box) => box.intersectsSphere(window) && box.intersectsPlane(plane),
    // eslint-disable-next-line @typescript-eslint/no-deprecated -- only where the tree is not a MeshBVH
    intersectsTriangle: (triangle) => {
      for (const end of cutOf(triangle, plane)) {
        end.sub(at);
        found.push(end.dot(u), end.dot(normal));
      }
      return false;
    },
  });
  return { segments: new Float32Array(found), reach };
}

/** A direction along the surface: level where that is possible. */
export function alongOf(normal: THREE.Vector3): THREE.Vector3 {
  const up = Math.abs(normal.z) < 0.9 ? new THREE.Vector3(0, 0, 1) : new THREE.Vector3(0, 1, 0);
  return new THREE.Vector3().crossVectors(up, normal).normalize();
}
