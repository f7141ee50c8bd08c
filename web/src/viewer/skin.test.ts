import { describe, expect, it } from "vitest";
import { linesOf, patchOf, placeAt, skinOf, unpackMarks, unpackSkin } from "./skin";

/** A tetrahedron as the server packs it, in two shells of two faces, from -1 to 1. */
function packed(): ArrayBuffer {
  const corners = [0, 2, 1, 0, 1, 3, 1, 2, 3, 2, 0, 3];
  // vertices numbered as they are met: 0, 2, 1, 3 become 0, 1, 2, 3
  const bytes = [0, 0, 0, 3, 1, 0, 2, 3, 1, 3, 4, 1];
  const buffer = new ArrayBuffer(96 + 4 * 8 + 3 * 4 + bytes.length);
  const view = new DataView(buffer);
  Array.from("IKSK").forEach((c, i) => view.setUint8(i, c.charCodeAt(0)));
  [2, 4, 4, 2, bytes.length].forEach((n, i) => view.setUint32(4 + 4 * i, n, true));
  const step = 2 / (2 ** 21 - 1);
  [10, 20, 30, -1, -1, -1, step, step, step].forEach((x, i) =>
    view.setFloat64(24 + 8 * i, x, true),
  );
  const full = 2 ** 21 - 1;
  const points = [
    [0, 0, 0],
    [0, full, 0],
    [full, 0, 0],
    [0, 0, full],
  ] as const;
  points.forEach(([x, y, z], v) => {
    view.setUint32(96 + 8 * v, (x | ((z & 0x7ff) << 21)) >>> 0, true);
    view.setUint32(100 + 8 * v, (y | ((z >>> 11) << 21)) >>> 0, true);
  });
  [0, 2, 4].forEach((n, i) => view.setUint32(128 + 4 * i, n, true));
  bytes.forEach((byte, i) => view.setUint8(140 + i, byte));
  expect(corners).toHaveLength(bytes.length);
  return buffer;
}

/** Two places: one of two lines, one of a line and two faces. */
function marks(): ArrayBuffer {
  const buffer = new ArrayBuffer(12 + 16 + 3 * 24 + 8);
  const view = new DataView(buffer);
  Array.from("IKMK").forEach((c, i) => view.setUint8(i, c.charCodeAt(0)));
  [1, 2, 2, 0, 1, 2].forEach((n, i) => view.setUint32(4 + 4 * i, n, true));
  for (let i = 0; i < 18; i++) view.setFloat32(28 + 4 * i, i, true);
  [3, 1].forEach((f, i) => view.setUint32(28 + 72 + 4 * i, f, true));
  return buffer;
}

describe("the skin", () => {
  it("unpacks into what was packed", () => {
    const skin = skinOf(unpackSkin(packed()));
    expect(skin.middle.toArray()).toEqual([10, 20, 30]);
    expect([...skin.positions]).toEqual([-1, -1, -1, -1, 1, -1, 1, -1, -1, -1, -1, 1]);
    expect([...skin.corners]).toEqual([0, 1, 2, 0, 2, 3, 2, 1, 3, 1, 0, 3]);
    expect([...skin.starts]).toEqual([0, 2, 4]);
    expect(skin.box.min.toArray()).toEqual([-1, -1, -1]);
    expect(skin.box.max.toArray()).toEqual([1, 1, 1]);
    expect(skin.geometry.index?.count).toBe(12);
  });

  it.each([
    ["another kind of file", 0, 88],
    ["a later version", 4, 9],
  ])("is refused when it is %s", (_, at, value) => {
    const buffer = packed();
    new DataView(buffer).setUint8(at, value);
    expect(() => unpackSkin(buffer)).toThrow("reload");
  });
});

describe("the marks", () => {
  it("give the lines of chosen places in order", () => {
    const all = unpackMarks(marks());
    expect([...linesOf(all, [1])]).toEqual([12, 13, 14, 15, 16, 17]);
    expect(linesOf(all, [0, 1])).toHaveLength(18);
    expect(linesOf(all, [])).toHaveLength(0);
  });

  it("give the triangles of chosen places as corners", () => {
    const skin = skinOf(unpackSkin(packed()));
    const patch = patchOf(skin, unpackMarks(marks()), [1]);
    expect(patch).toHaveLength(18);
    // face 3 is 1, 0, 3
    expect([...patch.slice(0, 3)]).toEqual([-1, 1, -1]);
    expect(patchOf(skin, unpackMarks(marks()), [0])).toHaveLength(0);
  });

  it("tell in which of the places asked for a face is", () => {
    const all = unpackMarks(marks());
    expect(placeAt(all, [0, 1], 3)).toBe(1);
    expect(placeAt(all, [0, 1], 2)).toBeNull();
    expect(placeAt(all, [0], 3)).toBeNull();
  });
});
