import * as THREE from "three";
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

/**
 * The faces in sight divided as they were measured, with the depth at each corner: the mean of the
 * walls that meet there, so that contours run smoothly.
 */
export function chartOf(skin: Skin, soundings: Soundings, sight: Sight): THREE.BufferGeometry {
  const { parts, begin, wall } = soundings;
  const means = vertexMeans(skin, soundings);
  return dividedFaces(skin, "depth", parts, sight, (f, k) => {
    const first = begin[f]!;
    const lattice = k > 1 ? latticeMeans(wall, first, k) : null;
    return (part, p, q) => {
      if (wall[first + part] === DEEP) return DEEP;
      return lattice
        ? lattice[p * (k + 1) + q]!
        : means[skin.corners[f * 3 + (p ? 1 : q ? 2 : 0)]!]!;
    };
  });
}

/** Mean depth of the walls at each vertex, of faces that were not divided. */
function vertexMeans(skin: Skin, { parts, begin, wall }: Soundings): Float32Array {
  const sums = new Float32Array(skin.positions.length / 3);
  const counts = new Uint16Array(sums.length);
  for (let f = 0; f < parts.length; f++) {
    const depth = wall[begin[f]!]!;
    if (parts[f] !== 1 || depth === DEEP) continue;
    for (let i = 0; i < 3; i++) {
      const v = skin.corners[f * 3 + i]!;
      sums[v]! += depth;
      counts[v]!++;
    }
  }
  return sums.map((sum, v) => (counts[v] ? sum / counts[v] : DEEP));
}

/** Mean depth of the walls at the points of a divided face, row by row of k + 1. */
function latticeMeans(wall: Float32Array, first: number, k: number): Float32Array {
  const sums = new Float32Array((k + 1) ** 2);
  const counts = new Uint8Array(sums.length);
  const add = (p: number, q: number, depth: number) => {
    if (depth === DEEP) return;
    sums[p * (k + 1) + q]! += depth;
    counts[p * (k + 1) + q]!++;
  };
  let sample = first;
  for (let i = 0; i < k; i++) {
    for (let j = 0; j < k - i; j++) {
      const own = wall[sample++]!;
      add(i, j, own);
      add(i + 1, j, own);
      add(i, j + 1, own);
      if (j === k - i - 1) continue;
      const other = wall[sample++]!;
      add(i + 1, j, other);
      add(i + 1, j + 1, other);
      add(i, j + 1, other);
    }
  }
  return sums.map((sum, i) => (counts[i] ? sum / counts[i] : DEEP));
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
