// @vitest-environment jsdom
import { screen } from "@testing-library/react";
import { describe, expect, it, vi } from "vitest";
import { serve, show } from "../tests/dom";
import { Between } from "./between";

const address = "/api/revisions/7/clearances";
const apart = {
  gap_mm: 0.2034,
  ends: [
    [1, 2, 3],
    [1.2034, 2, 3],
  ],
  shared_mm3: 0,
  depth_mm: 0,
  deepest: [1, 2, 3],
};

function between() {
  const onShow = vi.fn();
  const given = { item: 1, revision: 7, onShow, onClose: vi.fn() };
  return { ...show(<Between {...given} pieces={[5, 2]} />), onShow };
}

describe("between two pieces", () => {
  it("the least distance is measured once it is asked for, and shown where it is", async () => {
    const asked = serve({
      [`GET ${address}/2/5`]: { told: null, job: null },
      [`POST ${address}`]: { told: apart, job: null },
    });
    const { user, onShow } = between();
    expect(await screen.findByText("0.203 mm")).toBeTruthy();
    expect(asked.at(-1)!.body).toEqual({ pieces: [2, 5] });
    await user.click(screen.getByText("Show where"));
    expect(onShow).toHaveBeenCalledWith([1, 2, 3]);
  });

  it("the gap all round is told where they face each other", async () => {
    const facing = {
      area_mm2: 384,
      mean_mm: 0.9798,
      most_mm: 1.5,
      widest: [10.5, 3, 3],
      spacing_mm: 0.14,
    };
    serve({ [`GET ${address}/2/5`]: { told: { ...apart, facing }, job: null } });
    const { user, onShow } = between();
    expect(await screen.findByText("1.500 mm")).toBeTruthy();
    expect(screen.getByText("0.980 mm")).toBeTruthy();
    await user.click(screen.getByText("Show where it is widest"));
    expect(onShow).toHaveBeenCalledWith([10.5, 3, 3]);
  });

  it("what is known is not asked for again; what they share is told with its depth", async () => {
    const told = { ...apart, gap_mm: 0, shared_mm3: 56_000, depth_mm: 1.25, deepest: [10, 2, 3] };
    const asked = serve({ [`GET ${address}/2/5`]: { told, job: null } });
    between();
    expect(await screen.findByText("56.00 cm³")).toBeTruthy();
    expect(screen.getByText(/10.00, 2.00, 3.00 mm/)).toBeTruthy();
    expect(asked.every((one) => one.method === "GET")).toBe(true);
  });

  it("a failure is told, and it can be tried once more", async () => {
    const job = { id: 3, state: "failed", message: "They cannot be measured: one is open." };
    const asked = serve({
      [`GET ${address}/2/5`]: { told: null, job },
      [`POST ${address}`]: { told: apart, job: null },
    });
    const { user } = between();
    expect((await screen.findByRole("alert")).textContent).toContain("one is open");
    await user.click(screen.getByText("Once more"));
    expect(await screen.findByText("0.203 mm")).toBeTruthy();
    expect(asked.some((one) => one.method === "POST")).toBe(true);
  });
});
