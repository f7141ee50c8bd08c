import * as THREE from "three";
import type { DepthLattice } from "./depth-lattice";
import { dividedFaces } from "./divided-faces";
import {
  beginOfLine,
  type Division,
  DIVISIONS,
  onLine,
  partHolding,
  readDivision,
  rowsOf,
  sharesOf,
} from "./face-division";
import type { Sight } from "./shells";
import { magicOf, type Skin, triangleOf } from "./skin";

/** Thickness all over a mesh as the server packs it; see `packing.py` in the core. */
export type Soundings = {
  /** Beyond this nothing was measured, mm. */
  most: number;
  /** How the faces were divided: a sample in each part. */
  division: Division;
  /** Of each sample, mm. */
  ball: Float32Array;
  ray: Float32Array;
  /** What counts as thickness; `DEEP` where there is no wall within reach. */
  wall: Float32Array;
};

/** Stands for all that is thicker than was measured. */
export const DEEP = 1e6;
const HEAD = 24;
const STEPS = 65535;
const BALL_SPANS = 1;
const RAY_SPANS = 2;

export function unpackSoundings(buffer: ArrayBuffer): Soundings {
  const view = new DataView(buffer);
  const version = view.getUint32(4, true);
  if (magicOf(view) !== "IKSD" || !DIVISIONS.includes(version)) {
    throw new Error("The soundings came in a form that this page does not know; reload it.");
  }
  const faces = view.getUint32(8, true);
  const samples = view.getUint32(12, true);
  const most = view.getFloat64(16, true);
  const { division, end: ballAt } = readDivision(buffer, HEAD, faces, version);
  const balls = new Uint16Array(buffer, ballAt, samples);
  const rays = new Uint16Array(buffer, ballAt + 2 * samples, samples);
  const flags = new Uint8Array(buffer, ballAt + 4 * samples, samples);
  const mm = (steps: number) => (steps === STEPS ? DEEP : (steps / STEPS) * most);
  const ball = Float32Array.from(balls, mm);
  const ray = Float32Array.from(rays, mm);
  const wall = new Float32Array(samples);
  for (let i = 0; i < samples; i++) {
    const flag = flags[i]!;
    wall[i] = flag & BALL_SPANS ? ball[i]! : flag & RAY_SPANS ? ray[i]! : DEEP;
  }
  return { most, division, ball, ray, wall };
}

/** The sample nearest to a point of a face, from the skin's middle. */
export function sampleAt(
  skin: Skin,
  { division }: Soundings,
  face: number,
  at: THREE.Vector3,
): number {
  const weights = new THREE.Vector3();
  triangleOf(skin, face).getBarycoord(at, weights);
  const of = rowsOf(division, face);
  const corner = [weights.x, weights.y, weights.z];
  const part = partHolding(of, corner[of.apex]!, corner[(of.apex + 1) % 3]!);
  return division.begin[face]! + part;
}

/** The faces in sight divided as they were measured, with the depth at each corner. */
export function chartOf(
  skin: Skin,
  soundings: Soundings,
  lattice: DepthLattice,
  sight: Sight,
): THREE.BufferGeometry {
  const { division } = soundings;
  return dividedFaces(skin, "depth", division, sight, (face) => {
    const depths = lattice.of(face);
    const of = rowsOf(division, face);
    return (_part, line, j) => depths[beginOfLine(of, line) + j]!;
  });
}

/** Share of a face that is thinner than a limit. */
function thinShare({ division, wall }: Soundings, face: number, limit: number): number {
  const of = rowsOf(division, face);
  let at = division.begin[face]!;
  let total = 0;
  for (let row = 0; row < of.rows; row++) {
    const shares = sharesOf(of, row);
    const parts = onLine(of, row) + onLine(of, row + 1);
    for (let place = 0; place < parts; place++) {
      if (wall[at++]! < limit) total += shares[place % 2]!;
    }
  }
  return total;
}

/** Area of the skin whose wall is thinner than a limit, mm². */
export function thinArea(skin: Skin, soundings: Soundings, limit: number): number {
  const { begin } = soundings.division;
  const { wall } = soundings;
  let total = 0;
  for (let f = 0; f + 1 < begin.length; f++) {
    let at = begin[f]!;
    while (at < begin[f + 1]! && !(wall[at]! < limit)) at++;
    if (at === begin[f + 1]) continue;
    total += triangleOf(skin, f).getArea() * thinShare(soundings, f, limit);
  }
  return total;
}

/** Where the tints of the chart change, as shares of the limit; the second is the limit itself. */
export const BANDS = [0.5, 1, 1.5, 2, 3] as const;
/** Shallow to deep, one more than bands. */
export const DEPTHS = ["#ead9a4", "#dcd3b0", "#b9ccc4", "#7fb0bd", "#457f9f", "#1e3f6b"] as const;
