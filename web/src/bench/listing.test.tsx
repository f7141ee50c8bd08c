// @vitest-environment jsdom
import { screen } from "@testing-library/react";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { show } from "../tests/dom";
import type { Operation } from "../api/client";
import { finding, piece, question, revision } from "../tests/makers";
import { TakenRows } from "./listing";
import { ALL_PIECES, listedPieces } from "./piece-filter";
import { nestedPieces } from "./pieces";
import { ALL_LISTED, listedOf, rowsOf, sizeOfPlace } from "./rows";
import { useBench } from "./store";

const CLOSED = question("closed", ["open-edges", "hole", "holes"], ["cracks", "crack", "cracks"]);
const broken = revision(
  finding("cracks", "leak", "Crack"),
  finding("open-edges", "leak", "Hole 1", "Hole 2", "Hole 3"),
);
const SIZES = [5, 20, 1, 8];
const rows = rowsOf(broken, CLOSED).map((row, i) => ({
  ...row,
  spot: {
    ...row.spot,
    box: [
      [0, 0, 0],
      [1, SIZES[i]!, 0.5],
    ] as number[][],
  },
}));
const numbers = (listing: Partial<typeof ALL_LISTED>) =>
  listedOf(rows, { ...ALL_LISTED, ...listing }).map((row) => row.number);

describe("a long ledger", () => {
  it("is narrowed by kind and size, and sorted; numbers stay", () => {
    expect(rows.map(sizeOfPlace)).toEqual([5, 20, 1, 8]);
    expect(numbers({})).toEqual([1, 2, 3, 4]);
    expect(numbers({ kind: "open-edges" })).toEqual([1, 2, 3]);
    expect(numbers({ least: 6 })).toEqual([2, 4]);
    expect(numbers({ sort: "largest" })).toEqual([2, 4, 1, 3]);
    expect(numbers({ sort: "smallest", kind: "open-edges" })).toEqual([3, 1, 2]);
  });

  it("mends those that are taken, a button for each remedy of each kind", async () => {
    const able = (name: string, ...answers: string[]) =>
      ({
        name,
        title: `Do ${name}`,
        about: "",
        answers,
        parameters: [{ name: "places", kind: "places" }],
      }) as unknown as Operation;
    const operations = [able("fill", "open-edges"), able("stitch", "cracks"), able("thick", "x")];
    const onRun = vi.fn();
    const { user } = show(
      <TakenRows rows={rows} taken={new Set([1, 3, 4])} operations={operations} onRun={onRun} />,
    );
    expect(screen.getByText("3 findings taken")).toBeTruthy();
    expect(screen.queryByText(/thick/)).toBeNull();
    await user.click(screen.getByText("Do fill: 2"));
    expect(onRun).toHaveBeenCalledWith(operations[0], [1, 3], undefined);
    await user.click(screen.getByText("Do stitch: 1"));
    expect(onRun).toHaveBeenCalledWith(operations[1], [1], undefined);
  });
});

describe("taking", () => {
  beforeEach(() => useBench.getState().reset());

  it("is forgotten with the question", () => {
    const { takeRow, open } = useBench.getState();
    takeRow(2);
    takeRow(3);
    takeRow(2);
    expect([...useBench.getState().taken]).toEqual([3]);
    open("inside");
    expect(useBench.getState().taken.size).toBe(0);
  });
});

describe("many pieces", () => {
  const pieces = nestedPieces([
    piece(0, { name: "Post", longest_mm: 40, volume_mm3: 900 }),
    piece(1, { what: "debris", longest_mm: 0.4, volume_mm3: 0.1 }),
    piece(2, { within: 0, what: "sealed void", longest_mm: 12, volume_mm3: -1000 }),
  ]);
  const listed = (listing: Partial<typeof ALL_PIECES>) =>
    listedPieces(pieces, { ...ALL_PIECES, ...listing }).map((one) => one.number);

  it("are found by number, name or kind, by size, and sorted", () => {
    expect(listed({})).toEqual([1, 3, 2]);
    expect(listed({ text: "post" })).toEqual([1]);
    expect(listed({ text: "debris 2" })).toEqual([2]);
    expect(listed({ least: 10 })).toEqual([1, 3]);
    expect(listed({ sort: "smallest" })).toEqual([2, 3, 1]);
    expect(listed({ sort: "volume" })).toEqual([3, 1, 2]);
  });
});
