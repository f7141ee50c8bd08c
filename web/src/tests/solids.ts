import * as THREE from "three";
import { MeshBVH } from "three-mesh-bvh";
import { mergeVertices } from "three/examples/jsm/utils/BufferGeometryUtils.js";
import { neighboursOf } from "../viewer/neighbours";
import { type Skin, skinOf } from "../viewer/skin";

const MIDDLE = [100, -20, 5] as const;

/** A skin of some solids, a shell each, that stands away from the origin. */
export function skinFrom(...geometries: THREE.BufferGeometry[]) {
  const positions: number[] = [];
  const corners: number[] = [];
  const starts = [0];
  for (const geometry of geometries) {
    for (const name of ["normal", "uv"]) geometry.deleteAttribute(name);
    const welded = mergeVertices(geometry, 1e-5);
    const from = positions.length / 3;
    for (const x of welded.getAttribute("position").array) positions.push(x);
    for (let i = 0; i < welded.index!.count; i += 3) {
      const face = [0, 1, 2].map((k) => welded.index!.getX(i + k) + from);
      // poles of round things have faces without an area
      if (new Set(face).size === 3) corners.push(...face);
    }
    starts.push(corners.length / 3);
  }
  const box = new THREE.Box3().setFromArray(positions);
  const skin: Skin = skinOf({
    positions: new Float32Array(positions),
    corners: new Uint32Array(corners),
    starts: new Uint32Array(starts),
    coarse: null,
    middle: [...MIDDLE],
    low: box.min.toArray(),
    high: box.max.toArray(),
  });
  const near = neighboursOf(skin.positions, skin.corners);
  const tree = new MeshBVH(skin.geometry, { indirect: true });
  return { skin, near, tree };
}

/** A tube along z with its middle at the origin. */
export function tube(outer: number, inner: number, height: number, steps = 96) {
  const half = height / 2;
  const profile = [
    [inner, -half],
    [outer, -half],
    [outer, half],
    [inner, half],
    [inner, -half],
  ].map(([r, z]) => new THREE.Vector2(r, z));
  return new THREE.LatheGeometry(profile, steps).rotateX(Math.PI / 2);
}

/** The face whose middle is nearest to a place, from the middle of the skin. */
export function faceAt({ positions, corners }: Skin, x: number, y: number, z: number): number {
  let best = 0;
  let least = Infinity;
  for (let f = 0; f < corners.length / 3; f++) {
    const middle = [0, 1, 2].map(
      (d) => [0, 1, 2].reduce((sum, k) => sum + positions[corners[3 * f + k]! * 3 + d]!, 0) / 3,
    );
    const away = Math.hypot(middle[0]! - x, middle[1]! - y, middle[2]! - z);
    if (away < least) [best, least] = [f, away];
  }
  return best;
}
