import type { Skin } from "./skin";

/** The half-edge after one, round its face. */
export const next = (h: number) => (h % 3 === 2 ? h - 2 : h + 1);

/**
 * The half-edge across each half-edge, `3 face + corner`: -1 where it is open or shared by more
 * than two faces.
 */
export function twinsOf(corners: Uint32Array, vertices: number): Int32Array {
  const count = corners.length;
  const starts = new Uint32Array(vertices + 1);
  for (let h = 0; h < count; h++) {
    starts[Math.min(corners[h]!, corners[next(h)]!) + 1]!++;
  }
  for (let v = 0; v < vertices; v++) starts[v + 1]! += starts[v]!;
  const fill = starts.slice(0, vertices);
  const at = new Uint32Array(count);
  for (let h = 0; h < count; h++) at[fill[Math.min(corners[h]!, corners[next(h)]!)]!++] = h;
  const twins = new Int32Array(count).fill(-1);
  for (let v = 0; v < vertices; v++) {
    for (let i = starts[v]!; i < starts[v + 1]!; i++) {
      const h = at[i]!;
      const high = Math.max(corners[h]!, corners[next(h)]!);
      let other = -1;
      let shared = 1;
      for (let j = starts[v]!; j < starts[v + 1]!; j++) {
        const g = at[j]!;
        if (g === h || Math.max(corners[g]!, corners[next(g)]!) !== high) continue;
        other = g;
        shared++;
      }
      if (shared === 2) twins[h] = other;
    }
  }
  return twins;
}

/** What is worked out of a skin when something is first measured or chosen on it. */
export type Neighbours = {
  twins: Int32Array;
  /** Unit normal of each face, and its area in mm². */
  normals: Float32Array;
  areas: Float32Array;
};

export function neighboursOf(positions: Float32Array, corners: Uint32Array): Neighbours {
  const faces = corners.length / 3;
  const normals = new Float32Array(faces * 3);
  const areas = new Float32Array(faces);
  for (let f = 0; f < faces; f++) {
    const [a, b, c] = [corners[3 * f]! * 3, corners[3 * f + 1]! * 3, corners[3 * f + 2]! * 3];
    const ux = positions[b]! - positions[a]!;
    const uy = positions[b + 1]! - positions[a + 1]!;
    const uz = positions[b + 2]! - positions[a + 2]!;
    const vx = positions[c]! - positions[a]!;
    const vy = positions[c + 1]! - positions[a + 1]!;
    const vz = positions[c + 2]! - positions[a + 2]!;
    const x = uy * vz - uz * vy;
    const y = uz * vx - ux * vz;
    const z = ux * vy - uy * vx;
    const long = Math.hypot(x, y, z);
    areas[f] = long / 2;
    if (long > 0) {
      normals[3 * f] = x / long;
      normals[3 * f + 1] = y / long;
      normals[3 * f + 2] = z / long;
    }
  }
  return { twins: twinsOf(corners, positions.length / 3), normals, areas };
}

/** Cosine of the angle between two faces. */
export const cosineOf = ({ normals }: Neighbours, a: number, b: number) =>
  normals[3 * a]! * normals[3 * b]! +
  normals[3 * a + 1]! * normals[3 * b + 1]! +
  normals[3 * a + 2]! * normals[3 * b + 2]!;

/** Whether a half-edge is open, or bent so that its faces' cosine is under one. */
export function isBent(near: Neighbours, half: number, cosine: number): boolean {
  const twin = near.twins[half]!;
  return twin < 0 || cosineOf(near, (half / 3) | 0, (twin / 3) | 0) < cosine;
}

const STAMPS = new WeakMap<object, { of: Uint32Array; last: number }>();

/**
 * Faces reached from one over edges, the nearest first, as far as `goes` lets from a face over a
 * half-edge to the next; going on from so many at most.
 */
export function reached(
  { twins }: Neighbours,
  seed: number,
  goes: (from: number, to: number, half: number) => boolean,
  most = Infinity,
): number[] {
  let stamps = STAMPS.get(twins);
  if (!stamps) STAMPS.set(twins, (stamps = { of: new Uint32Array(twins.length / 3), last: 0 }));
  const mark = ++stamps.last;
  const seen = stamps.of;
  const found = [seed];
  seen[seed] = mark;
  for (let i = 0; i < found.length && i < most; i++) {
    const face = found[i]!;
    for (let k = 0; k < 3; k++) {
      const half = face * 3 + k;
      const twin = twins[half]!;
      if (twin < 0) continue;
      const other = (twin / 3) | 0;
      if (seen[other] === mark || !goes(face, other, half)) continue;
      seen[other] = mark;
      found.push(other);
    }
  }
  return found;
}

const KNOWN = new WeakMap<object, Promise<Neighbours>>();

/** Neighbours of a skin, worked out once by a worker. */
export function loadNeighbours(skin: Skin): Promise<Neighbours> {
  const key = skin.corners;
  const known = KNOWN.get(key);
  if (known) return known;
  const made = new Promise<Neighbours>((resolve, reject) => {
    const worker = new Worker(new URL("./neighbours-worker.ts", import.meta.url), {
      type: "module",
    });
    worker.onerror = () => reject(new Error("The model's faces could not be sorted; reload."));
    worker.onmessage = ({ data }: MessageEvent<Neighbours>) => {
      worker.terminate();
      resolve(data);
    };
    worker.postMessage({ positions: skin.positions, corners: skin.corners });
  });
  KNOWN.set(key, made);
  return made;
}
