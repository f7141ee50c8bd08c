/** Triangles over the vertices of a skin, shell by shell. */
export type Faces = {
  corners: Uint32Array;
  /** Where each shell begins among the faces, and where those that belong to none do. */
  starts: Uint32Array;
};

/** Below this many faces every machine draws the skin itself at once. */
export const MANY = 500_000;
const CELLS = 110;

/**
 * A coarse stand-in for a large skin, to be shown while it moves where drawing is slow.
 *
 * Vertices are gathered in the cells of a grid (Rossignac & Borrel 1993); each cell is stood for
 * by the vertex nearest to the mean of its vertices, and faces within fewer than three cells
 * vanish. The vertices are those of the skin, so that nothing but the corners is new.
 */
export function coarseOf(positions: Float32Array, fine: Faces, cells = CELLS): Faces {
  const n = positions.length / 3;
  const low = [Infinity, Infinity, Infinity];
  const high = [-Infinity, -Infinity, -Infinity];
  for (let i = 0; i < positions.length; i++) {
    const k = i % 3;
    low[k] = Math.min(low[k]!, positions[i]!);
    high[k] = Math.max(high[k]!, positions[i]!);
  }
  const longest = Math.max(...high.map((x, k) => x - low[k]!), 1e-30);
  const scale = (cells - 1e-3) / longest;
  const cellOf = new Int32Array(n);
  const size = cells ** 3;
  const sums = new Float32Array(size * 3);
  const counts = new Uint32Array(size);
  for (let v = 0; v < n; v++) {
    let cell = 0;
    for (let k = 0; k < 3; k++) {
      cell = cell * cells + Math.floor((positions[3 * v + k]! - low[k]!) * scale);
    }
    cellOf[v] = cell;
    counts[cell]!++;
    for (let k = 0; k < 3; k++) sums[3 * cell + k]! += positions[3 * v + k]!;
  }
  const nearest = new Float32Array(size).fill(Infinity);
  const standsFor = new Uint32Array(size);
  for (let v = 0; v < n; v++) {
    const cell = cellOf[v]!;
    let off = 0;
    for (let k = 0; k < 3; k++) {
      off += (positions[3 * v + k]! - sums[3 * cell + k]! / counts[cell]!) ** 2;
    }
    if (off < nearest[cell]!) {
      nearest[cell] = off;
      standsFor[cell] = v;
    }
  }
  const corners: number[] = [];
  const starts = new Uint32Array(fine.starts.length);
  const faces = fine.corners.length / 3;
  for (let shell = 0; shell < fine.starts.length; shell++) {
    starts[shell] = corners.length / 3;
    const end = fine.starts[shell + 1] ?? faces;
    for (let f = fine.starts[shell]!; f < end; f++) {
      const a = cellOf[fine.corners[3 * f]!]!;
      const b = cellOf[fine.corners[3 * f + 1]!]!;
      const c = cellOf[fine.corners[3 * f + 2]!]!;
      if (a !== b && b !== c && c !== a) {
        corners.push(standsFor[a]!, standsFor[b]!, standsFor[c]!);
      }
    }
  }
  return { corners: new Uint32Array(corners), starts };
}
