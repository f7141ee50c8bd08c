import * as THREE from "three";

/** A mesh as the server packs it for the screen; see `packing.py` in the core. */
export type Skin = {
  geometry: THREE.BufferGeometry;
  positions: Float32Array;
  corners: Uint16Array | Uint32Array;
  /** Middle of the bounding box in mm; everything on the screen is measured from it. */
  middle: THREE.Vector3;
  box: THREE.Box3;
};

const SMALL = 65536;

function magicOf(view: DataView): string {
  return String.fromCharCode(...[0, 1, 2, 3].map((i) => view.getUint8(i)));
}

export function unpackSkin(buffer: ArrayBuffer): Skin {
  const view = new DataView(buffer);
  if (magicOf(view) !== "IKSK" || view.getUint32(4, true) !== 1) {
    throw new Error("The mesh came in a form that this page does not know; reload it.");
  }
  const vertices = view.getUint32(8, true);
  const faces = view.getUint32(12, true);
  const at = [16, 24, 32].map((offset) => view.getFloat64(offset, true));
  const positions = new Float32Array(buffer, 40, vertices * 3);
  const start = 40 + vertices * 12;
  const corners =
    vertices <= SMALL
      ? new Uint16Array(buffer, start, faces * 3)
      : new Uint32Array(buffer, start, faces * 3);
  const geometry = new THREE.BufferGeometry();
  geometry.setAttribute("position", new THREE.BufferAttribute(positions, 3));
  geometry.setIndex(new THREE.BufferAttribute(corners, 1));
  geometry.computeBoundingBox();
  geometry.computeBoundingSphere();
  return {
    geometry,
    positions,
    corners,
    middle: new THREE.Vector3(...at),
    box: geometry.boundingBox!.clone(),
  };
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
