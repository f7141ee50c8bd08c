import {
  beginOfLine,
  forEachCorner,
  halfOf,
  partAt,
  piecesOf,
  pointAt,
  pointCount,
  type Rows,
  rowsOf,
  sideOf,
} from "./face-division";
import { cosineOf, type Neighbours, neighboursOf, next } from "./neighbours";
import type { Skin } from "./skin";
import { DEEP, type Soundings } from "./soundings";

/** Faces whose normals have at least this cosine belong to one stretch of skin: 60 degrees. */
const ONE_STRETCH = 0.5;

type Depths = Pick<Soundings, "division" | "wall" | "most">;

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

  /** Depths at the points of a face, line by line between its rows. */
  of(face: number): Float32Array {
    const of = rowsOf(this.depths.division, face);
    const found = this.own(face, of);
    if (of.rows > 1) for (let side = 0; side < 3; side++) this.addBeyond(face, of, side, found);
    for (let side = 0; side < 3; side++) {
      this.addAtVertex(face * 3 + halfOf(of, side), pointAt(of, side, 0), found);
    }
    const { sums, counts } = found;
    // what stands for deep is as deep as was measured, so that the tints run up to it
    return sums.map((sum, i) => (counts[i] ? sum / counts[i] : this.depths.most));
  }

  /** Of the face's own parts, all that touch each point. */
  private own(face: number, of: Rows): Sums {
    const size = pointCount(of);
    const found = { sums: new Float32Array(size), counts: new Uint16Array(size) };
    forEachCorner(of, (part, line, j) => this.add(face, part, found, beginOfLine(of, line) + j));
    return found;
  }

  /** Of the parts across one side, but for its ends. */
  private addBeyond(face: number, of: Rows, side: number, found: Sums): void {
    const other = this.near.twins[face * 3 + halfOf(of, side)]!;
    if (other < 0) return;
    const beyond = Math.floor(other / 3);
    if (!this.isOneStretch(face, beyond)) return;
    const theirs = rowsOf(this.depths.division, beyond);
    const across = sideOf(theirs, other % 3);
    const [k, size] = [piecesOf(of, side), piecesOf(theirs, across)];
    for (let m = 1; m < k; m++) {
      // the other face has that side the other way round
      const along = ((k - m) * size) / k;
      for (const piece of new Set([Math.ceil(along) - 1, Math.floor(along)])) {
        this.add(beyond, partAt(theirs, across, piece), found, pointAt(of, side, m));
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
      const theirs = rowsOf(this.depths.division, beyond);
      this.add(beyond, partAt(theirs, sideOf(theirs, other % 3), 0), found, at);
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

  private add(face: number, part: number, { sums, counts }: Sums, at: number): void {
    const depth = this.depths.wall[this.depths.division.begin[face]! + part]!;
    if (depth === DEEP) return;
    sums[at]! += depth;
    counts[at]!++;
  }

  private isOneStretch(face: number, other: number): boolean {
    return cosineOf(this.near, face, other) > ONE_STRETCH;
  }
}
