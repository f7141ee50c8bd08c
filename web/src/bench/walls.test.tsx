// @vitest-environment jsdom
import { screen, within } from "@testing-library/react";
import { beforeEach, describe, expect, it, vi } from "vitest";
import type { Material, Report } from "../api/client";
import { show } from "../tests/dom";
import { finding, revision, rules } from "../tests/makers";
import { depthOf } from "./rows";
import { useBench } from "./store";
import { faultText, scaleText, Suits } from "./suits";
import { WallsHead } from "./walls-head";

type Verdict = Report["verdicts"][number];

const verdict = (key: string, part: Partial<Verdict> = {}): Verdict => ({
  key,
  name: key,
  process: "Sintering",
  passes: true,
  faults: [],
  weight_g: 12.34,
  price: 5.6,
  scale: 1,
  ...part,
});

const fault = (what: string, found = 1.1, asked = 3, places = 4) => ({
  what,
  title: "Wall standing free",
  found,
  asked,
  places,
});

beforeEach(() => useBench.getState().reset());

describe("what a material says", () => {
  it.each([
    [fault("thin-free-walls"), "wall standing free 1.10 of 3.00 mm at 4 places"],
    [fault("thin-walls", 1.1, 3, 1), "wall standing free 1.10 of 3.00 mm at 1 place"],
    [fault("too-small", 18, 20, 1), "longest side 18.0 of at least 20 mm"],
    [fault("too-large", 400, 330, 1), "a side 400.0 of at most 330 mm"],
    [fault("sealed-voids", 0, 0, 2), "2 hollows undrained"],
  ])("is told with its measure", (one, words) => {
    expect(faultText(one)).toBe(words);
  });

  it("tells the size by which it would pass, if there is one", () => {
    const faults = [fault("thin-walls")];
    expect(scaleText(verdict("a"))).toBe("");
    expect(scaleText(verdict("a", { passes: false, faults, scale: 1.25 }))).toContain("125.0 %");
    expect(scaleText(verdict("a", { passes: false, faults, scale: null }))).toContain("At no size");
    const hollow = [fault("sealed-voids")];
    expect(scaleText(verdict("a", { passes: false, faults: hollow }))).toBe("");
  });

  it("lists the one ordered first, then those that pass; another one needs a reason", async () => {
    const onTake = vi.fn();
    const shown = revision();
    shown.report.verdicts = [
      verdict("gypsum", { passes: false, faults: [fault("thin-walls")] }),
      verdict("resin"),
      verdict("nylon", { passes: false, faults: [fault("too-small")] }),
    ];
    const { user } = show(<Suits revision={shown} ordered="nylon" waivers={[]} onTake={onTake} />);
    const rows = screen.getAllByRole("listitem");
    expect(rows.map((row) => row.dataset.material)).toEqual(["nylon", "resin", "gypsum"]);
    expect(screen.getByText(/Walls were not measured/)).toBeTruthy();
    await user.click(within(rows[0]!).getByRole("button"));
    expect(screen.queryByRole("textbox")).toBeNull();
    await user.click(within(rows[1]!).getByRole("button"));
    await user.click(screen.getByText("Take this"));
    expect(onTake).not.toHaveBeenCalled();
    await user.type(screen.getByRole("textbox"), "asked for by telephone{Enter}");
    expect(onTake).toHaveBeenCalledWith("resin", "asked for by telephone");
  });
});

describe("the head of walls", () => {
  const nylon: Material = {
    id: 1,
    key: "nylon",
    name: "Nylon",
    process: "Sintering",
    edition: 2,
    rules: rules(),
  };

  it("offers to measure what was too large, and to judge again by a changed sheet", async () => {
    const onJudge = vi.fn();
    const large = revision();
    large.report.unasked = [{ question: "walls", reason: "not-measured", words: "", about: "" }];
    const { user, unmount } = show(
      <WallsHead revision={large} material={nylon} onJudge={onJudge} />,
    );
    await user.click(screen.getByText("Measure the walls"));
    expect(onJudge).toHaveBeenCalledTimes(1);
    unmount();
    const old = { ...revision(finding("thin-walls", "call", "Wall")), sheet: rules() };
    const again = show(<WallsHead revision={old} material={nylon} onJudge={onJudge} />);
    expect(screen.queryByText("Judge again")).toBeNull();
    again.unmount();
    old.sheet = { ...rules(), wall_free: 2 };
    const changed = show(<WallsHead revision={old} material={nylon} onJudge={onJudge} />);
    await changed.user.click(screen.getByText("Judge again"));
    expect(onJudge).toHaveBeenCalledTimes(2);
    await changed.user.click(screen.getByText("All materials"));
    expect(useBench.getState().suits).toBe(true);
  });
});

describe("a thin place", () => {
  const row = (thickness: number | null) => {
    const found = finding("thin-walls", "call", "Wall");
    found.spots[0]!.thickness_mm = thickness;
    return { number: 1, finding: found, spot: found.spots[0]!, place: 1, mark: 0 };
  };

  it("tells its depth, if it has one", () => {
    expect(depthOf(row(0.451))).toBe("0.45");
    expect(depthOf(row(null))).toBe("");
  });

  it("puts away a limit that was tried out when it is chosen", () => {
    useBench.getState().tryLimit(2);
    useBench.getState().choose(1);
    expect(useBench.getState().limit).toBeNull();
  });
});
