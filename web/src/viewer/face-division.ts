/**
 * How faces are divided into parts, as `caulkcore.thickness.sampling.Samples` divides them: a side
 * into n, rows of parts from there to the corner across, the apex; the other two sides into n times
 * `slim`. Line r of those between rows is divided into ceil((rows - r) / slim).
 */
export type Division = {
  /** n of each face; 0 where nothing is told of it. */
  n: Uint16Array;
  slim: Uint16Array;
  apex: Uint8Array;
  /** The first part of each face, and how many there are in all. */
  begin: Uint32Array;
};

/** One face of a division. */
export type Rows = { n: number; slim: number; apex: number; rows: number };

/** Versions of what the server packs whose divisions are known; see `packing.py`. */
export const DIVISIONS: readonly number[] = [1, 2];
const SLIM_BITS = 0x3fff;

/** How faces are divided, from where it stands in a buffer, and where that ends. */
export function readDivision(
  buffer: ArrayBuffer,
  at: number,
  faces: number,
  version: number,
): { division: Division; end: number } {
  const n = new Uint16Array(buffer, at, faces);
  const slim = new Uint16Array(faces).fill(1);
  const apex = new Uint8Array(faces).fill(1);
  let end = at + 2 * faces;
  if (version > 1) {
    const packed = new Uint16Array(buffer, end, faces);
    packed.forEach((both, f) => {
      slim[f] = both & SLIM_BITS;
      apex[f] = both >> 14;
    });
    end += 2 * faces;
  }
  const begin = new Uint32Array(faces + 1);
  for (let f = 0; f < faces; f++) begin[f + 1] = begin[f]! + partCount(n[f]!, slim[f]!);
  return { division: { n, slim, apex, begin }, end };
}

/** A face's rows; one whole part where nothing is told of it. */
export function rowsOf(division: Division, face: number): Rows {
  const n = division.n[face] || 1;
  const slim = division.slim[face] || 1;
  return { n, slim, apex: division.apex[face]!, rows: n * slim };
}

export function partCount(n: number, slim: number): number {
  return n * (slim * (n + 1) - 1);
}

/** Into how many a line between rows is divided. */
export function onLine({ slim, rows }: Rows, line: number): number {
  return Math.ceil((rows - line) / slim);
}

/** Pieces of the lines after one, up to the apex. */
function piecesBeyond({ slim, rows }: Rows, line: number): number {
  const lines = rows - line;
  const whole = Math.floor(lines / slim);
  return (slim * whole * (whole + 1)) / 2 + (lines % slim) * (whole + 1);
}

/** The first part of a row among those of its face. */
export function beginOfRow(of: Rows, row: number): number {
  const from = 2 * piecesBeyond(of, row) - onLine(of, row);
  return partCount(of.n, of.slim) - from;
}

/** Number of the first point on a line, of the points at the corners of parts. */
export function beginOfLine(of: Rows, line: number): number {
  return piecesBeyond(of, 0) - piecesBeyond(of, line) + line;
}

/** How many points a face's parts have for corners. */
export function pointCount(of: Rows): number {
  return beginOfLine(of, of.rows) + 1;
}

/** Into how many a side is divided, counted from the corner before the apex. */
export function piecesOf(of: Rows, side: number): number {
  return side === 2 ? of.n : of.rows;
}

/** The half-edge of a face that a side, counted from the corner before the apex, is. */
export function halfOf(of: Rows, side: number): number {
  return (of.apex + 2 + side) % 3;
}

/** The side, counted from the corner before the apex, that a half-edge of a face is. */
export function sideOf(of: Rows, half: number): number {
  return (half - of.apex + 4) % 3;
}

/** The part of a face that lies at a piece of one of its sides. */
export function partAt(of: Rows, side: number, piece: number): number {
  if (side === 0) return beginOfRow(of, piece);
  return side === 1 ? beginOfRow(of, of.rows - piece) - 1 : 2 * (of.n - 1 - piece);
}

/** The point after a piece of one of a face's sides, of the points at corners of parts. */
export function pointAt(of: Rows, side: number, piece: number): number {
  if (side === 0) return beginOfLine(of, piece);
  if (side === 2) return of.n - piece;
  const line = of.rows - piece;
  return beginOfLine(of, line) + onLine(of, line);
}

/** The part of a face that holds a point, by its weights at the apex and the corner after it. */
export function partHolding(of: Rows, apex: number, after: number): number {
  const s = Math.min(Math.max(apex, 0), 1);
  const t = Math.min(Math.max(after, 0), 1 - s);
  const row = Math.min(Math.floor(s * of.rows), of.rows - 1);
  const up = s * of.rows - row;
  const [near, far] = [onLine(of, row), onLine(of, row + 1)];
  const along = s < 1 ? (t / (1 - s)) * (near + up * (far - near)) : 0;
  const j = Math.min(Math.floor(along), near - 1);
  const hangs = up + along - j > 1 && j < far ? 1 : 0;
  return beginOfRow(of, row) + 2 * j + hangs;
}

/** Share of a face's area that each part of a row has, the upright ones and the hanging ones. */
export function sharesOf(of: Rows, row: number): [upright: number, hanging: number] {
  const on = (line: number) => (1 - line / of.rows) / (of.rows * Math.max(onLine(of, line), 1));
  return [on(row), on(row + 1)];
}

/** Each part's corners in turn, as line and place on it. */
export function forEachCorner(
  of: Rows,
  put: (part: number, line: number, j: number) => void,
): void {
  let part = 0;
  for (let row = 0; row < of.rows; row++) {
    const [near, far] = [onLine(of, row), onLine(of, row + 1)];
    for (let j = 0; j < near; j++) {
      put(part, row, j);
      put(part, row + 1, j);
      put(part++, row, j + 1);
      if (j >= far) continue;
      put(part, row + 1, j);
      put(part, row + 1, j + 1);
      put(part++, row, j + 1);
    }
  }
}
