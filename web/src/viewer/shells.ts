import * as THREE from "three";
import type { Faces } from "./coarse";
import type { Skin } from "./skin";

/** Which shells are out of sight: some, or all but one. */
export type Sight = { hidden: ReadonlySet<number>; only: number | null };

export const ALL_SHOWN: Sight = { hidden: new Set(), only: null };

export function isHidden(sight: Sight, shell: number): boolean {
  return sight.only === null ? sight.hidden.has(shell) : shell !== sight.only;
}

/** What is in sight of all but some shells, and of those. */
export function partedSight(
  starts: Uint32Array,
  sight: Sight,
  shells: ReadonlySet<number>,
): [others: Sight, those: Sight] {
  const [others, those] = [new Set<number>(), new Set<number>()];
  for (let shell = 0; shell + 1 < starts.length; shell++) {
    const gone = isHidden(sight, shell);
    if (gone || shells.has(shell)) others.add(shell);
    if (gone || !shells.has(shell)) those.add(shell);
  }
  return [
    { hidden: others, only: null },
    { hidden: those, only: null },
  ];
}

/** Shell of a face; the number of shells for a face that belongs to none. */
export function shellAt(starts: Uint32Array, face: number): number {
  let low = 0;
  let high = starts.length - 1;
  while (low < high) {
    const middle = (low + high + 1) >> 1;
    if (starts[middle]! <= face) low = middle;
    else high = middle - 1;
  }
  return low;
}

/** Corners of the faces in sight; the array itself when nothing is hidden. */
export function cornersInSight({ corners, starts }: Faces, sight: Sight): Uint32Array {
  if (sight.only !== null) {
    return corners.subarray(starts[sight.only]! * 3, starts[sight.only + 1]! * 3);
  }
  if (!sight.hidden.size) return corners;
  const gone = [...sight.hidden].sort((a, b) => a - b).filter((s) => s + 1 < starts.length);
  const kept = new Uint32Array(corners.length);
  let from = 0;
  let used = 0;
  for (const shell of gone) {
    const part = corners.subarray(from, starts[shell]! * 3);
    kept.set(part, used);
    used += part.length;
    from = starts[shell + 1]! * 3;
  }
  const rest = corners.subarray(from);
  kept.set(rest, used);
  return kept.subarray(0, used + rest.length);
}

/** Bounding box of a shell in mm, low and high corner. */
export function boxOf(skin: Skin, shell: number): [number[], number[]] {
  const box = new THREE.Box3();
  const point = new THREE.Vector3();
  for (let c = skin.starts[shell]! * 3; c < skin.starts[shell + 1]! * 3; c++) {
    box.expandByPoint(point.fromArray(skin.positions, skin.corners[c]! * 3));
  }
  return [box.min.add(skin.middle).toArray(), box.max.add(skin.middle).toArray()];
}

/** Shells pulled apart to look between them: how far, and with which outer shell each one goes. */
export type Spread = { share: number; roots: readonly number[] };

/** The way that each vertex goes when shells are pulled apart: off the middle of the model. */
export function waysApart(skin: Skin, roots: readonly number[]): Float32Array {
  const ways = new Float32Array(skin.positions.length);
  const middle = skin.box.getCenter(new THREE.Vector3()).add(skin.middle).toArray();
  const known = new Map<number, number[]>();
  for (let shell = 0; shell + 1 < skin.starts.length; shell++) {
    const root = roots[shell] ?? shell;
    if (!known.has(root)) {
      const [low, high] = boxOf(skin, root);
      known.set(
        root,
        low.map((x, k) => (x + high[k]!) / 2 - middle[k]!),
      );
    }
    const way = known.get(root)!;
    for (let c = skin.starts[shell]! * 3; c < skin.starts[shell + 1]! * 3; c++) {
      ways.set(way, skin.corners[c]! * 3);
    }
  }
  return ways;
}
