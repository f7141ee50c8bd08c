import * as THREE from "three";
import { coarseOf, type Faces, MANY } from "./coarse";

/** A mesh's arrays as the server packs them for the screen; see `packing.py` in the core. */
export type SkinArrays = {
  /** Three numbers a vertex, mm from the middle. */
  positions: Float32Array;
  corners: Uint32Array;
  /** Where each shell begins among the faces, and where those that belong to none do. */
  starts: Uint32Array;
  /** For large ones: fewer faces over the same vertices. */
  coarse: Faces | null;
  middle: [number, number, number];
  low: [number, number, number];
  high: [number, number, number];
};

/** A mesh on the screen. */
export type Skin = Omit<SkinArrays, "middle" | "low" | "high"> & {
  /** All of it, for picking; what is drawn shares its attributes. */
  geometry: THREE.BufferGeometry;
  /** Middle of the bounding box in mm; everything on the screen is measured from it. */
  middle: THREE.Vector3;
  box: THREE.Box3;
};

const HEAD = 24 + 9 * 8;
const STEPS = 2 ** 21 - 1;
const LOW_21 = 0x1fffff;

export function magicOf(view: DataView): string {
  return String.fromCharCode(...[0, 1, 2, 3].map((i) => view.getUint8(i)));
}

function triple(view: DataView, offset: number): [number, number, number] {
  return [0, 8, 16].map((k) => view.getFloat64(offset + k, true)) as [number, number, number];
}

/** Unpack a mesh. Touches nothing of the page, so that a worker can do it. */
export function unpackSkin(buffer: ArrayBuffer): SkinArrays {
  const view = new DataView(buffer);
  if (magicOf(view) !== "IKSK" || view.getUint32(4, true) !== 2) {
    throw new Error("The mesh came in a form that this page does not know; reload it.");
  }
  const [vertices, faces, shells, bytes] = [8, 12, 16, 20].map((at) =>
    view.getUint32(at, true),
  ) as [number, number, number, number];
  const middle = triple(view, 24);
  const low = triple(view, 48);
  const step = triple(view, 72);
  const packed = new Uint32Array(buffer, HEAD, vertices * 2);
  const positions = new Float32Array(vertices * 3);
  for (let v = 0; v < vertices; v++) {
    const a = packed[2 * v]!;
    const b = packed[2 * v + 1]!;
    const z = (a >>> 21) | ((b >>> 21) << 11);
    positions[3 * v] = low[0] + step[0] * (a & LOW_21);
    positions[3 * v + 1] = low[1] + step[1] * (b & LOW_21);
    positions[3 * v + 2] = low[2] + step[2] * z;
  }
  const startsAt = HEAD + vertices * 8;
  const starts = new Uint32Array(buffer.slice(startsAt, startsAt + (shells + 1) * 4));
  const corners = cornersOf(new Uint8Array(buffer, startsAt + (shells + 1) * 4, bytes), faces * 3);
  const high = low.map((x, k) => x + step[k]! * STEPS) as [number, number, number];
  const coarse = faces > MANY ? coarseOf(positions, { corners, starts }) : null;
  return { positions, corners, starts, coarse, middle, low, high };
}

/** Corners from their distances back from the next new number, seven bits a byte. */
function cornersOf(bytes: Uint8Array, count: number): Uint32Array {
  const corners = new Uint32Array(count);
  let at = 0;
  let fresh = 0;
  for (let c = 0; c < count; c++) {
    let byte = bytes[at++]!;
    let back = byte & 127;
    for (let shift = 7; byte >= 128; shift += 7) {
      byte = bytes[at++]!;
      back |= (byte & 127) << shift;
    }
    corners[c] = fresh - back;
    if (back === 0) fresh++;
  }
  return corners;
}

/** Where a half-edge begins, from the middle of the skin. */
export const cornerAt = ({ positions, corners }: Skin, half: number) =>
  new THREE.Vector3().fromArray(positions, corners[half]! * 3);

/** A face, from the middle of the skin. */
export function triangleOf(
  { positions, corners }: Skin,
  face: number,
  made = new THREE.Triangle(),
): THREE.Triangle {
  made.a.fromArray(positions, corners[face * 3]! * 3);
  made.b.fromArray(positions, corners[face * 3 + 1]! * 3);
  made.c.fromArray(positions, corners[face * 3 + 2]! * 3);
  return made;
}

/** Tints that tell shells apart; see `materials.ts`. */
export const TINTS = 6;

/** Wrap unpacked arrays for drawing. */
export function skinOf(arrays: SkinArrays): Skin {
  const { positions, corners, starts } = arrays;
  const geometry = new THREE.BufferGeometry();
  geometry.setAttribute("position", new THREE.BufferAttribute(positions, 3));
  geometry.setIndex(new THREE.BufferAttribute(corners, 1));
  geometry.setAttribute("tint", new THREE.BufferAttribute(tintsOf(arrays), 1));
  const [low, high] = [new THREE.Vector3(...arrays.low), new THREE.Vector3(...arrays.high)];
  const box = new THREE.Box3(low, high);
  geometry.boundingBox = box.clone();
  geometry.boundingSphere = box.getBoundingSphere(new THREE.Sphere());
  const middle = new THREE.Vector3(...arrays.middle);
  return { geometry, positions, corners, starts, coarse: arrays.coarse, box, middle };
}

/** A tint for each vertex: that of the last shell it belongs to. */
function tintsOf({ positions, corners, starts }: SkinArrays): Uint8Array {
  const tints = new Uint8Array(positions.length / 3);
  for (let shell = 1; shell + 1 < starts.length; shell++) {
    const tint = shell % TINTS;
    for (let c = starts[shell]! * 3; c < starts[shell + 1]! * 3; c++) tints[corners[c]!] = tint;
  }
  return tints;
}

export type Marks = {
  /** Six numbers for each line of each place, from the skin's middle. */
  lines: Float32Array;
  faces: Uint32Array;
  /** Where each place begins in `lines` (in lines) and in `faces`; one more than places. */
  lineStarts: Uint32Array;
  faceStarts: Uint32Array;
};

export function unpackMarks(buffer: ArrayBuffer): Marks {
  const view = new DataView(buffer);
  if (magicOf(view) !== "IKMK" || view.getUint32(4, true) !== 1) {
    throw new Error("The marks came in a form that this page does not know; reload it.");
  }
  const places = view.getUint32(8, true);
  const sizes = new Uint32Array(buffer, 12, places * 2);
  const lineStarts = new Uint32Array(places + 1);
  const faceStarts = new Uint32Array(places + 1);
  for (let i = 0; i < places; i++) {
    lineStarts[i + 1] = lineStarts[i]! + sizes[2 * i]!;
    faceStarts[i + 1] = faceStarts[i]! + sizes[2 * i + 1]!;
  }
  const start = 12 + places * 8;
  const nLines = lineStarts[places]!;
  return {
    lines: new Float32Array(buffer, start, nLines * 6),
    faces: new Uint32Array(buffer, start + nLines * 24, faceStarts[places]),
    lineStarts,
    faceStarts,
  };
}

/** Lines of some places, one after the other. */
export function linesOf(marks: Marks, places: readonly number[]): Float32Array {
  const parts = places.map((p) =>
    marks.lines.subarray(marks.lineStarts[p]! * 6, marks.lineStarts[p + 1]! * 6),
  );
  const all = new Float32Array(parts.reduce((n, part) => n + part.length, 0));
  let at = 0;
  for (const part of parts) {
    all.set(part, at);
    at += part.length;
  }
  return all;
}

/** Triangles of some places as loose corners, nine numbers each. */
export function patchOf(skin: Skin, marks: Marks, places: readonly number[]): Float32Array {
  const total = places.reduce((n, p) => n + marks.faceStarts[p + 1]! - marks.faceStarts[p]!, 0);
  const all = new Float32Array(total * 9);
  let at = 0;
  for (const p of places) {
    for (let i = marks.faceStarts[p]!; i < marks.faceStarts[p + 1]!; i++) {
      const face = marks.faces[i]!;
      for (let k = 0; k < 3; k++) {
        const v = skin.corners[face * 3 + k]! * 3;
        all[at++] = skin.positions[v]!;
        all[at++] = skin.positions[v + 1]!;
        all[at++] = skin.positions[v + 2]!;
      }
    }
  }
  return all;
}

/** The place that a face belongs to, of those asked for; null if it is in none. */
export function placeAt(marks: Marks, places: readonly number[], face: number): number | null {
  for (const p of places) {
    const faces = marks.faces.subarray(marks.faceStarts[p], marks.faceStarts[p + 1]);
    if (faces.includes(face)) return p;
  }
  return null;
}
