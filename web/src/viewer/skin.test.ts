import { describe, expect, it } from "vitest";
import { linesOf, patchOf, unpackMarks, unpackSkin } from "./skin";

/** A tetrahedron as the server packs it. */
function packed(): ArrayBuffer {
  const buffer = new ArrayBuffer(40 + 4 * 12 + 24);
  const view = new DataView(buffer);
  Array.from("IKSK").forEach((c, i) => view.setUint8(i, c.charCodeAt(0)));
  [1, 4, 4].forEach((n, i) => view.setUint32(4 + 4 * i, n, true));
  [10, 20, 30].forEach((x, i) => view.setFloat64(16 + 8 * i, x, true));
  const points = [-1, -1, -1, 1, -1, -1, -1, 1, -1, -1, -1, 1];
  points.forEach((x, i) => view.setFloat32(40 + 4 * i, x, true));
  [0, 2, 1, 0, 1, 3, 1, 2, 3, 2, 0, 3].forEach((v, i) => view.setUint16(88 + 2 * i, v, true));
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
    const skin = unpackSkin(packed());
    expect(skin.middle.toArray()).toEqual([10, 20, 30]);
    expect(skin.positions).toHaveLength(12);
    expect([...skin.corners.slice(0, 3)]).toEqual([0, 2, 1]);
    expect(skin.box.min.toArray()).toEqual([-1, -1, -1]);
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
    const skin = unpackSkin(packed());
    const patch = patchOf(skin, unpackMarks(marks()), [1]);
    expect(patch).toHaveLength(18);
    // face 3 is 2, 0, 3
    expect([...patch.slice(0, 3)]).toEqual([-1, 1, -1]);
    expect(patchOf(skin, unpackMarks(marks()), [0])).toHaveLength(0);
  });
});
