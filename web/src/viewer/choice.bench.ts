import * as THREE from "three";
import { bench, describe } from "vitest";
import { faceAt, skinFrom } from "../tests/solids";
import { brushed, cornersOfChoice, nothingOf, sumsOf, withFaces } from "./choice";

/** A ball of 1.4 million triangles, 100 mm across, and a brush of the usual radius. */
const { skin, near } = skinFrom(new THREE.SphereGeometry(50, 840, 840));
const seed = faceAt(skin, 50, 0, 0);
const at = new THREE.Vector3(50, 0, 0);
const none = nothingOf(skin);

describe("a brush of 4.3 mm on 1.4 million triangles", () => {
  bench("which faces", () => {
    brushed(skin, near, seed, at, 4.3);
  });
  bench("which faces, the choice with them, its sums, and what is drawn of it", () => {
    const choice = withFaces(none, brushed(skin, near, seed, at, 4.3), false);
    sumsOf(skin, near, choice);
    cornersOfChoice(skin, choice);
  });
});
