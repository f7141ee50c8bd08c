import * as THREE from "three";
import { type Division, forEachCorner, onLine, partCount, rowsOf } from "./face-division";
import { isHidden, type Sight } from "./shells";
import type { Skin } from "./skin";

/** The number at a corner of one part of a face, which is a place on a line between rows. */
export type AtCorner = (part: number, line: number, j: number) => number;

/**
 * The faces in sight, each divided into parts as the core divides them, with a number at each
 * corner of a part. Faces of no parts are drawn whole.
 */
export function dividedFaces(
  skin: Skin,
  attribute: string,
  division: Division,
  sight: Sight,
  numbersOf: (face: number) => AtCorner,
): THREE.BufferGeometry {
  const { starts, corners, positions } = skin;
  const faces = division.n.length;
  const ranges: [number, number][] = [];
  for (let shell = 0; shell + 1 < starts.length; shell++) {
    if (!isHidden(sight, shell)) ranges.push([starts[shell]!, starts[shell + 1]!]);
  }
  const last = starts.at(-1)!;
  if (sight.only === null && last < faces) ranges.push([last, faces]);
  let total = 0;
  for (const [from, to] of ranges) {
    for (let f = from; f < to; f++) {
      total += division.n[f] ? partCount(division.n[f]!, division.slim[f]!) : 1;
    }
  }
  const points = new Float32Array(total * 9);
  const numbers = new Float32Array(total * 3);
  let at = 0;
  for (const [from, to] of ranges) {
    for (let f = from; f < to; f++) {
      const of = rowsOf(division, f);
      const number = numbersOf(f);
      const [a, b, c] = [2, 0, 1].map((k) => corners[f * 3 + ((of.apex + k) % 3)]! * 3) as [
        number,
        number,
        number,
      ];
      forEachCorner(of, (part, line, j) => {
        const p = line / of.rows;
        const q = ((1 - p) * j) / Math.max(onLine(of, line), 1);
        for (let d = 0; d < 3; d++) {
          const x = positions[a + d]!;
          points[at * 3 + d] = x + p * (positions[b + d]! - x) + q * (positions[c + d]! - x);
        }
        numbers[at++] = number(part, line, j);
      });
    }
  }
  const geometry = new THREE.BufferGeometry();
  geometry.setAttribute("position", new THREE.BufferAttribute(points, 3));
  geometry.setAttribute(attribute, new THREE.BufferAttribute(numbers, 1));
  geometry.boundingBox = skin.geometry.boundingBox;
  geometry.boundingSphere = skin.geometry.boundingSphere;
  return geometry;
}
