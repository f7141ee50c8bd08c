import { cosineOf, type Neighbours, neighboursOf, next } from "./neighbours";
import type { Skin } from "./skin";
import { DEEP, type Soundings } from "./soundings";

/** Faces whose normals have at least this cosine belong to one stretch of skin: 60 degrees. */
const ONE_STRETCH = 0.5;

type Depths = Pick<Soundings, "parts" | "begin" | "wall" | "most">;

/** The part of a face divided into k x k that lies at the m-th piece of one of its sides. */
function partAlong(k: number, side: number, m: number): number {
  if (side === 0) return m * (2 * k - m);
  if (side === 2) return 2 * (k - 1 - m);
  const i = k - 1 - m;
  return i * (2 * k - i) + 2 * m;
}

/** Of the walls that meet at each point of a face: their sum, and how many there are. */
type Sums = { sums: Float32Array; counts: Uint16Array };

/**
 * Depths at the points of the parts that faces are divided into: the mean of the walls that meet
 * there, across the sides of faces, too, where the skin goes on. Where none does it is deep. What
 * is drawn between them has no steps along the sides of parts or faces.
 */
export class DepthLattice {
  private readonly near: Neighbours;

  constructor(
    private readonly skin: Skin,
    private readonly depths: Depths,
  ) {
    this.near = neighboursOf(skin.positions, skin.corners);
  }

  /** Depths at the points of a face, row by row of k + 1. */
  of(face: number): Float32Array {
    const k = this.depths.parts[face] || 1;
    const found = this.own(face, k);
    if (k > 1) for (let side = 0; side < 3; side++) this.addBeyond(face, side, k, found);
    const corners = [0, k * (k + 1), k];
    corners.forEach((at, corner) => this.addAtVertex(face * 3 + corner, at, found));
    const { sums, counts } = found;
    // what stands for deep is as deep as was measured, so that the tints run up to it
    return sums.map((sum, i) => (counts[i] ? sum / counts[i] : this.depths.most));
  }

  /** Of the face's own parts, all that touch each point. */
  private own(face: number, k: number): Sums {
    const row = k + 1;
    const found = { sums: new Float32Array(row * row), counts: new Uint16Array(row * row) };
    let part = 0;
    for (let i = 0; i < k; i++) {
      for (let j = 0; j < k - i; j++) {
        const at = i * row + j;
        this.add(face, part++, found, at, at + row, at + 1);
        if (j < k - i - 1) this.add(face, part++, found, at + row, at + row + 1, at + 1);
      }
    }
    return found;
  }

  /** Of the parts across one side, but for its ends. */
  private addBeyond(face: number, side: number, k: number, found: Sums): void {
    const other = this.near.twins[face * 3 + side]!;
    if (other < 0) return;
    const beyond = Math.floor(other / 3);
    if (!this.isOneStretch(face, beyond)) return;
    const size = this.depths.parts[beyond] || 1;
    const row = k + 1;
    for (let m = 1; m < k; m++) {
      const at = [m * row, (k - m) * row + m, k - m][side]!;
      // the other face has that side the other way round
      const along = ((k - m) * size) / k;
      for (const piece of new Set([Math.ceil(along) - 1, Math.floor(along)])) {
        this.add(beyond, partAlong(size, other % 3, piece), found, at);
      }
    }
  }

  /** Of the parts of other faces at a corner: round it one way until a rim, then the other. */
  private addAtVertex(half: number, at: number, found: Sums): void {
    const { twins } = this.near;
    const { corners } = this.skin;
    const face = Math.floor(half / 3);
    const take = (other: number) => {
      const beyond = Math.floor(other / 3);
      if (!this.isOneStretch(face, beyond)) return;
      this.add(beyond, partAlong(this.depths.parts[beyond] || 1, other % 3, 0), found, at);
    };
    const onward = (h: number) => twins[next(next(h))]!;
    const back = (h: number) => (twins[h]! < 0 ? -1 : next(twins[h]!));
    // beside a face that is turned over the round is lost
    const goesOn = (h: number) => h >= 0 && h !== half && corners[h] === corners[half];
    let h = onward(half);
    for (; goesOn(h); h = onward(h)) take(h);
    if (h === half) return;
    for (h = back(half); goesOn(h); h = back(h)) take(h);
  }

  private add(face: number, part: number, { sums, counts }: Sums, ...points: number[]): void {
    const depth = this.depths.wall[this.depths.begin[face]! + part]!;
    if (depth === DEEP) return;
    for (const at of points) {
      sums[at]! += depth;
      counts[at]!++;
    }
  }

  private isOneStretch(face: number, other: number): boolean {
    return cosineOf(this.near, face, other) > ONE_STRETCH;
  }
}
