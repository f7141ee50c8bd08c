import * as THREE from "three";
import { MeshBVH } from "three-mesh-bvh";

/** Vertices of a skin, and another skin to measure them against, both from one middle. */
export type DeviationAsked = {
  points: Float32Array;
  positions: Float32Array;
  corners: Uint32Array;
};

/** How far each of some points is from a surface, mm. */
export function deviationOf({ points, positions, corners }: DeviationAsked): Float32Array {
  const geometry = new THREE.BufferGeometry();
  geometry.setAttribute("position", new THREE.BufferAttribute(positions, 3));
  geometry.setIndex(new THREE.BufferAttribute(corners, 1));
  const tree = new MeshBVH(geometry, { indirect: true });
  const out = new Float32Array(points.length / 3);
  const point = new THREE.Vector3();
  const found = { point: new THREE.Vector3(), distance: 0, faceIndex: 0 };
  // vertices that stayed are most of them, and cost nothing
  const known = new Set<string>();
  const name = (all: Float32Array, v: number) =>
    `${all[3 * v]!.toFixed(4)} ${all[3 * v + 1]!.toFixed(4)} ${all[3 * v + 2]!.toFixed(4)}`;
  for (let v = 0; v < positions.length / 3; v++) known.add(name(positions, v));
  for (let v = 0; v < out.length; v++) {
    if (known.has(name(points, v))) continue;
    tree.closestPointToPoint(point.fromArray(points, 3 * v), found);
    out[v] = found.distance < STAYED ? 0 : found.distance;
  }
  return out;
}

/** Coordinates come in steps of a two-millionth of the model: less is no change. */
const STAYED = 1e-3;

if (typeof document === "undefined") {
  self.onmessage = ({ data }: MessageEvent<DeviationAsked>) => {
    const found = deviationOf(data);
    self.postMessage(found, { transfer: [found.buffer as ArrayBuffer] });
  };
}
