import * as THREE from "three";
import type { DepthLattice } from "./depth-lattice";
import { dividedFaces } from "./divided-faces";
import type { Sight } from "./shells";
import { magicOf, type Skin, triangleOf } from "./skin";

/** Thickness all over a mesh as the server packs it; see `packing.py` in the core. */
export type Soundings = {
  /** Beyond this nothing was measured, mm. */
  most: number;
  /** Into how many parts along each side a face was divided, and its first sample. */
  parts: Uint16Array;
  begin: Uint32Array;
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
  if (magicOf(view) !== "IKSD" || view.getUint32(4, true) !== 1) {
    throw new Error("The soundings came in a form that this page does not know; reload it.");
  }
  const faces = view.getUint32(8, true);
  const samples = view.getUint32(12, true);
  const most = view.getFloat64(16, true);
  const parts = new Uint16Array(buffer, HEAD, faces);
  const ballAt = HEAD + 2 * faces;
  const balls = new Uint16Array(buffer, ballAt, samples);
  const rays = new Uint16Array(buffer, ballAt + 2 * samples, samples);
  const flags = new Uint8Array(buffer, ballAt + 4 * samples, samples);
  const begin = new Uint32Array(faces + 1);
  for (let f = 0; f < faces; f++) begin[f + 1] = begin[f]! + parts[f]! ** 2;
  const mm = (steps: number) => (steps === STEPS ? DEEP : (steps / STEPS) * most);
  const ball = Float32Array.from(balls, mm);
  const ray = Float32Array.from(rays, mm);
  const wall = new Float32Array(samples);
  for (let i = 0; i < samples; i++) {
    const flag = flags[i]!;
    wall[i] = flag & BALL_SPANS ? ball[i]! : flag & RAY_SPANS ? ray[i]! : DEEP;
  }
  return { most, parts, begin, ball, ray, wall };
}

/** The sample nearest to a point of a face, from the skin's middle. */
export function sampleAt(
  skin: Skin,
  { parts, begin }: Soundings,
  face: number,
  at: THREE.Vector3,
): number {
  const weights = new THREE.Vector3();
  triangleOf(skin, face).getBarycoord(at, weights);
  const k = parts[face]!;
  const s = Math.min(Math.max(weights.y, 0), 1) * k;
  const t = Math.min(Math.max(weights.z, 0), 1) * k;
  const i = Math.min(Math.floor(s), k - 1);
  const j = Math.min(Math.floor(t), k - 1 - i);
  const hangs = s - i + t - j > 1 && j < k - 1 - i ? 1 : 0;
  return begin[face]! + i * (2 * k - i) + 2 * j + hangs;
}

/** The faces in sight divided as they were measured, with the depth at each corner. */
export function chartOf(
  skin: Skin,
  soundings: Soundings,
  lattice: DepthLattice,
  sight: Sight,
): THREE.BufferGeometry {
  const { parts } = soundings;
  return dividedFaces(skin, "depth", parts, sight, (face, k) => {
    const depths = lattice.of(face);
    return (_part, p, q) => depths[p * (k + 1) + q]!;
  });
}

/** Area of the skin whose wall is thinner than a limit, mm². */
export function thinArea(skin: Skin, soundings: Soundings, limit: number): number {
  const { parts, begin, wall } = soundings;
  let total = 0;
  for (let f = 0; f < parts.length; f++) {
    let thin = 0;
    for (let s = begin[f]!; s < begin[f + 1]!; s++) if (wall[s]! < limit) thin++;
    if (!thin) continue;
    total += (triangleOf(skin, f).getArea() * thin) / parts[f]! ** 2;
  }
  return total;
}

/** Where the tints of the chart change, as shares of the limit; the second is the limit itself. */
export const BANDS = [0.5, 1, 1.5, 2, 3] as const;
/** Shallow to deep, one more than bands. */
export const DEPTHS = ["#ead9a4", "#dcd3b0", "#b9ccc4", "#7fb0bd", "#457f9f", "#1e3f6b"] as const;
