// @vitest-environment jsdom
import { screen } from "@testing-library/react";
import { describe, expect, it, vi } from "vitest";
import { show } from "../tests/dom";
import { full, revision } from "../tests/makers";
import { factorThatFits, proposals, ScalePanel } from "./scale-panel";

const report = { ...revision().report, size_mm: [60, 20, 10], volume_mm3: 12_000 };
const machine = { name: "Skerry", sides: [200, 100, 90] as const };
const verdict = {
  key: "porcelain",
  name: "Porcelain",
  process: "Slip",
  passes: false,
  faults: [],
  weight_g: 3,
  price: 4,
  scale: 1.5,
};

describe("sizes that are proposed", () => {
  const told = (name: string, note = "", material = "porcelain") =>
    proposals({ name, note }, { ...report, verdicts: [verdict] }, material, machine).map(
      ({ says, factor }) => [says, Number(factor.toFixed(4))],
    );

  it("are what the customer wrote, what passes, and what still fits", () => {
    expect(told("Horn cleat, 6 in", "or 15 cm")).toEqual([
      ["the customer writes “6 in”", 2.54],
      ["the customer writes “15 cm”", 2.5],
      ["Porcelain passes", 1.5],
      ["the largest for Skerry", 3.3333],
    ]);
  });

  it("are nothing that it has already", () => {
    expect(told("60 mm long", "", "resin")).toEqual([["the largest for Skerry", 3.3333]]);
  });

  it("fit a machine however they lie, by a hair", () => {
    expect(factorThatFits([10, 20, 60], [200, 100, 90])).toBe(3.3333);
    expect(factorThatFits([100, 100, 100], [50, 100, 200])).toBe(0.5);
  });
});

describe("another size", () => {
  it.each([
    ["120", "longest side", { axis: "longest", length: 120 }, "120.0 × 40.0 × 20.0 mm, 96.00 cm³"],
    ["50", "along y", { axis: "y", length: 50 }, "150.0 × 50.0 × 25.0 mm"],
    ["50", "of its size", { percent: 50 }, "30.0 × 10.0 × 5.0 mm, 1.50 cm³"],
    ["2,5", "times as large", { factor: 2.5 }, "150.0 × 50.0 × 25.0 mm"],
  ])("%s %s is told before it is taken", async (text, way, parameters, words) => {
    const onScale = vi.fn();
    const { user } = show(
      <ScalePanel item={full()} report={report} material="" machine={null} onScale={onScale} />,
    );
    await user.selectOptions(screen.getByLabelText("Of what"), way);
    await user.type(screen.getByLabelText("The size wanted"), text);
    expect(screen.getByText(words, { exact: false })).toBeTruthy();
    await user.type(screen.getByLabelText("The size wanted"), "{Enter}");
    expect(onScale).toHaveBeenCalledWith(parameters);
  });

  it("takes nothing that is no size", async () => {
    const onScale = vi.fn();
    const { user } = show(
      <ScalePanel item={full()} report={report} material="" machine={null} onScale={onScale} />,
    );
    await user.type(screen.getByLabelText("The size wanted"), "wide{Enter}");
    expect(onScale).not.toHaveBeenCalled();
  });
});
