// @vitest-environment jsdom
import { screen } from "@testing-library/react";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { show } from "../tests/dom";
import { cutOutBy, outlineOf } from "./cut";
import { type Cutter, useHand } from "./hand";
import { SolidBar } from "./solid-bar";

const CUTTER: Cutter = { at: [10, 20, 30], sides: [4, 6, 8], across: 5, height: 12, axis: "x" };

/** Least and greatest coordinates of some lines. */
function bounds(lines: number[][][]) {
  const points = lines.flat();
  return [0, 1, 2].map((k) => [
    Math.min(...points.map((one) => one[k]!)),
    Math.max(...points.map((one) => one[k]!)),
  ]);
}

describe("what cuts", () => {
  it("is drawn where it will cut", () => {
    expect(bounds(outlineOf("block", CUTTER))).toEqual([
      [8, 12],
      [17, 23],
      [26, 34],
    ]);
    const [x, y, z] = bounds(outlineOf("cylinder", CUTTER));
    expect(x).toEqual([4, 16]);
    expect(y![1]! - y![0]!).toBeCloseTo(5);
    expect(z![1]! - z![0]!).toBeCloseTo(5);
  });

  it("is told to the operation as it is drawn", () => {
    expect(cutOutBy("block", CUTTER)).toEqual({
      shape: "block",
      at: [10, 20, 30],
      size: [4, 6, 8],
      axis: [0, 0, 1],
    });
    expect(cutOutBy("cylinder", CUTTER)).toMatchObject({ size: [5, 5, 12], axis: [1, 0, 0] });
  });
});

describe("the bar of a block or cylinder", () => {
  beforeEach(() => useHand.setState({ cutter: CUTTER }));

  it("takes typed sides, and cuts with them", async () => {
    const onCut = vi.fn();
    const { user } = show(<SolidBar shape="block" onCut={onCut} />);
    const side = screen.getByLabelText<HTMLInputElement>("Side, y, mm");
    await user.clear(side);
    // nothing is typed yet: what holds is what held before
    expect(useHand.getState().cutter!.sides).toEqual([4, 6, 8]);
    await user.type(side, "7.5");
    await user.type(screen.getByLabelText("Middle, z, mm"), "{Control>}a{/Control}-2");
    await user.click(screen.getByRole("button", { name: "Cut it out" }));
    expect(onCut).toHaveBeenCalledWith({
      shape: "block",
      at: [10, 20, -2],
      size: [4, 7.5, 8],
      axis: [0, 0, 1],
      spacing: 1,
    });
  });

  it("of a cylinder asks how wide and long it is, and which way it goes", async () => {
    const onCut = vi.fn();
    const { user } = show(<SolidBar shape="cylinder" onCut={onCut} />);
    expect(screen.queryByLabelText("Side, x, mm")).toBeNull();
    await user.selectOptions(screen.getByLabelText("Along"), "y");
    await user.click(screen.getByRole("button", { name: "Cut it out" }));
    expect(onCut.mock.calls[0]![0]).toMatchObject({ size: [5, 5, 12], axis: [0, 1, 0] });
  });

  it("waits while nothing can be run", () => {
    show(<SolidBar shape="block" onCut={null} />);
    expect(screen.getByRole<HTMLButtonElement>("button", { name: "Cut it out" }).disabled).toBe(
      true,
    );
  });
});
