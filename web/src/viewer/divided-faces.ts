import * as THREE from "three";
import { isHidden, type Sight } from "./shells";
import type { Skin } from "./skin";

/** The number at a corner of one part of a face: p and q count along its sides from its first. */
export type AtCorner = (part: number, p: number, q: number) => number;

/**
 * The faces in sight, each divided into k x k parts as the core divides them, with a number at
 * each corner of a part. Faces of no parts are drawn whole.
 */
export function dividedFaces(
  skin: Skin,
  attribute: string,
  parts: Uint16Array,
  sight: Sight,
  numbersOf: (face: number, k: number) => AtCorner,
): THREE.BufferGeometry {
  const { starts, corners, positions } = skin;
  const ranges: [number, number][] = [];
  for (let shell = 0; shell + 1 < starts.length; shell++) {
    if (!isHidden(sight, shell)) ranges.push([starts[shell]!, starts[shell + 1]!]);
  }
  const last = starts.at(-1)!;
  if (sight.only === null && last < parts.length) ranges.push([last, parts.length]);
  let total = 0;
  for (const [from, to] of ranges) for (let f = from; f < to; f++) total += (parts[f] || 1) ** 2;
  const points = new Float32Array(total * 9);
  const numbers = new Float32Array(total * 3);
  let at = 0;
  const put = (f: number, k: number, p: number, q: number, number: number) => {
    const [a, b, c] = [corners[f * 3]! * 3, corners[f * 3 + 1]! * 3, corners[f * 3 + 2]! * 3];
    for (let d = 0; d < 3; d++) {
      const x = positions[a + d]!;
      points[at * 3 + d] =
        x + (p / k) * (positions[b + d]! - x) + (q / k) * (positions[c + d]! - x);
    }
    numbers[at++] = number;
  };
  for (const [from, to] of ranges) {
    for (let f = from; f < to; f++) {
      const k = parts[f] || 1;
      const number = numbersOf(f, k);
      let part = 0;
      for (let i = 0; i < k; i++) {
        for (let j = 0; j < k - i; j++) {
          put(f, k, i, j, number(part, i, j));
          put(f, k, i + 1, j, number(part, i + 1, j));
          put(f, k, i, j + 1, number(part, i, j + 1));
          part++;
          if (j === k - i - 1) continue;
          put(f, k, i + 1, j, number(part, i + 1, j));
          put(f, k, i + 1, j + 1, number(part, i + 1, j + 1));
          put(f, k, i, j + 1, number(part, i, j + 1));
          part++;
        }
      }
    }
  }
  const geometry = new THREE.BufferGeometry();
  geometry.setAttribute("position", new THREE.BufferAttribute(points, 3));
  geometry.setAttribute(attribute, new THREE.BufferAttribute(numbers, 1));
  geometry.boundingBox = skin.geometry.boundingBox;
  geometry.boundingSphere = skin.geometry.boundingSphere;
  return geometry;
}
