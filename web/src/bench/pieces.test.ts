import { beforeEach, describe, expect, it } from "vitest";
import { piece } from "../tests/makers";
import { isHidden } from "../viewer/shells";
import { nestedPieces, pieceName, rootsOf } from "./pieces";
import { useBench } from "./store";

describe("pieces", () => {
  it("stand under the one around them, the largest first", () => {
    const list = nestedPieces([
      piece(0, { longest_mm: 5 }),
      piece(1, { longest_mm: 40 }),
      piece(2, { longest_mm: 9, within: 3 }),
      piece(3, { longest_mm: 30, within: 1 }),
      piece(4, { longest_mm: 31, within: 1 }),
    ]);
    expect(list.map((one) => [one.shell, one.depth])).toEqual([
      [1, 0],
      [4, 1],
      [3, 1],
      [2, 2],
      [0, 0],
    ]);
  });

  it("whose surroundings are not listed stand outermost", () => {
    expect(nestedPieces([piece(5, { within: 2 })]).map((one) => one.depth)).toEqual([0]);
    expect(nestedPieces(undefined)).toEqual([]);
  });

  it("are numbered from one", () => {
    expect(pieceName(piece(0, { what: "sealed void" }))).toBe("Piece 1, sealed void");
    expect(pieceName(piece(4, { name: "Neck" }))).toBe("Piece 5, Neck, outer skin");
  });
});

describe("sight", () => {
  beforeEach(() => useBench.getState().reset());
  const seen = () => [0, 1, 2].filter((s) => !isHidden(useBench.getState().sight, s));

  it("hides a piece and brings it back", () => {
    useBench.getState().hide(1);
    expect(seen()).toEqual([0, 2]);
    useBench.getState().hide(1);
    expect(seen()).toEqual([0, 1, 2]);
  });

  it("shows one alone, and then what was in sight before", () => {
    const { hide, showOnly } = useBench.getState();
    hide(0);
    showOnly(1);
    expect(seen()).toEqual([1]);
    showOnly(1);
    expect(seen()).toEqual([1, 2]);
  });

  it("shows all again, and forgets when another revision is looked at", () => {
    const { hide, showAll, view, choosePiece } = useBench.getState();
    hide(0);
    showAll();
    expect(seen()).toEqual([0, 1, 2]);
    hide(2);
    choosePiece(2);
    view(8);
    expect(seen()).toEqual([0, 1, 2]);
    expect(useBench.getState().piece).toBeNull();
  });

  it("sees through while the inside is asked about", () => {
    const through = () => useBench.getState().looks.seeThrough;
    const { open, toggle } = useBench.getState();
    open("inside");
    expect(through()).toBe(true);
    open("closed");
    expect(through()).toBe(false);
    toggle("seeThrough");
    open("solid");
    expect(through()).toBe(true);
  });
});

describe("the outermost", () => {
  it("is the piece itself, or the one that all that are round it lie in", () => {
    const pieces = [piece(0), piece(1, { within: 0 }), piece(2, { within: 1 }), piece(4)];
    expect(rootsOf(pieces)).toEqual([0, 0, 0, undefined, 4]);
  });
});
