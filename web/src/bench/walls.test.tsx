// @vitest-environment jsdom
import { screen, within } from "@testing-library/react";
import { beforeEach, describe, expect, it, vi } from "vitest";
import type { Item, Material, Operation, Report } from "../api/client";
import { show } from "../tests/dom";
import { finding, revision, rules } from "../tests/makers";
import { Remedy } from "./remedy";
import { depthOf, rowsOf } from "./rows";
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

describe("what a person accepted", () => {
  const waived = (kind: string) => ({ kind, reason: "shown to the customer", by: "maren", at: "" });
  const verdicts = (...faults: Verdict["faults"]) => {
    const shown = revision();
    shown.report.verdicts = [
      verdict("nylon", { passes: false, faults, scale: 1.2 }),
      verdict("resin", { passes: false, faults, scale: 1.2 }),
    ];
    return shown;
  };
  const lines = () => screen.getAllByRole("listitem").map((row) => row.textContent);

  it("holds for the ordered material only, where it depends on the material", () => {
    const waivers = [waived("thin-walls")] as Item["waivers"];
    show(
      <Suits
        revision={verdicts(fault("thin-walls"))}
        ordered="nylon"
        waivers={waivers}
        onTake={null}
      />,
    );
    const [nylon, resin] = lines();
    expect(nylon).toContain("passes as accepted");
    expect(nylon).toContain(", accepted");
    expect(nylon).not.toContain("Would pass at");
    expect(resin).toContain("✕ fails");
    expect(resin).toContain("Would pass at 120.0 %");
  });

  it("holds in every material for a hollow that is meant", () => {
    const waivers = [waived("sealed-voids")] as Item["waivers"];
    show(
      <Suits
        revision={verdicts(fault("sealed-voids"))}
        ordered="nylon"
        waivers={waivers}
        onTake={null}
      />,
    );
    for (const line of lines()) expect(line).toContain("passes as accepted");
  });

  it("does not hide another fault", () => {
    const waivers = [waived("thin-walls")] as Item["waivers"];
    show(
      <Suits
        revision={verdicts(fault("thin-walls"), fault("thin-necks"))}
        ordered="nylon"
        waivers={waivers}
        onTake={null}
      />,
    );
    expect(lines()[0]).toContain("✕ fails");
  });
});

const PLACES: Operation["parameters"][number] = {
  name: "places",
  title: "Places",
  about: "",
  kind: "places",
  choices: [],
  offers: [],
  unit: "",
  least: 0,
  most: 0,
  default: null,
  empty: "",
};

describe("building up", () => {
  it("tells beforehand what it adds and by how much the skin moves, at one place and at all", () => {
    const thin = finding("thin-walls", "call", "Wall", "Wall");
    thin.spots.forEach((spot, i) => Object.assign(spot, { adds_mm3: 4 + i, shift_mm: 0.25 }));
    const shown = revision(thin);
    const [row] = rowsOf(shown, {
      key: "walls",
      title: "Walls",
      asks: "",
      kinds: [{ kind: "thin-walls", one: "", many: "" }],
    });
    const operation: Operation = {
      name: "build-up",
      title: "Build it up",
      about: "Moves the skin out.",
      answers: ["thin-walls"],
      freely: false,
      parameters: [PLACES],
    };
    const { container } = show(<Remedy row={row!} operation={operation} onRun={vi.fn()} />);
    expect(container.textContent).toContain("About 4.00 mm³ more; the skin moves by about 0.25 mm");
    expect(container.textContent).toContain("About 9.00 mm³ more");
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
