// @vitest-environment jsdom
import { fireEvent, screen, within } from "@testing-library/react";
import { beforeEach, describe, expect, it, vi } from "vitest";
import type { Item, Operation, Report } from "../api/client";
import { show } from "../tests/dom";
import { cover, finding, job, revision } from "../tests/makers";
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
    const onTake = vi.fn(() => Promise.resolve());
    const shown = revision();
    shown.report.verdicts = [
      verdict("gypsum", { passes: false, faults: [fault("thin-walls")] }),
      verdict("resin"),
      verdict("nylon", { passes: false, faults: [fault("too-small")] }),
    ];
    const { user } = show(
      <Suits item={1} revision={shown} ordered="nylon" covered={[]} onTake={onTake} />,
    );
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
  const all = (kind: string): Item["covered"] => [1, 2].map((place) => cover({ kind, place }));
  const verdicts = (...faults: Verdict["faults"]) => {
    const shown = revision(...faults.map((one) => finding(one.what, "call", "One", "Another")));
    shown.report.verdicts = [
      verdict("nylon", { passes: false, faults, scale: 1.2 }),
      verdict("resin", { passes: false, faults, scale: 1.2 }),
    ];
    return shown;
  };
  const lines = () => screen.getAllByRole("listitem").map((row) => row.textContent);

  it("holds for the ordered material only, where it depends on the material", () => {
    const covered = all("thin-walls");
    show(
      <Suits
        item={1}
        revision={verdicts(fault("thin-walls"))}
        ordered="nylon"
        covered={covered}
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
    const covered = all("sealed-voids");
    show(
      <Suits
        item={1}
        revision={verdicts(fault("sealed-voids"))}
        ordered="nylon"
        covered={covered}
        onTake={null}
      />,
    );
    for (const line of lines()) expect(line).toContain("passes as accepted");
  });

  it("counts only where every place is accepted", () => {
    const covered = [cover({ kind: "thin-walls", place: 2 })];
    const shown = verdicts(fault("thin-walls"));
    show(<Suits item={1} revision={shown} ordered="nylon" covered={covered} onTake={null} />);
    expect(lines()[0]).toContain("✕ fails");
  });

  it("does not hide another fault", () => {
    const covered = all("thin-walls");
    show(
      <Suits
        item={1}
        revision={verdicts(fault("thin-walls"), fault("thin-necks"))}
        ordered="nylon"
        covered={covered}
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
  needed: false,
};

describe("a thickness for an open sheet", () => {
  it("tells beforehand what it adds, by what is typed", () => {
    const sheets = finding("open-sheets", "leak", "Sheet", "Sheet");
    sheets.spots.forEach((spot) => Object.assign(spot, { area_mm2: 200 }));
    const [row] = rowsOf(revision(sheets), {
      key: "closed",
      title: "Closed",
      asks: "",
      kinds: [{ kind: "open-sheets", one: "", many: "" }],
    });
    const operation: Operation = {
      name: "give-thickness",
      title: "Give it a thickness",
      about: "Makes a wall.",
      answers: ["open-sheets"],
      freely: false,
      parameters: [
        PLACES,
        { ...PLACES, name: "thickness", title: "Thickness", kind: "number", unit: "mm", most: 50 },
      ],
    };
    const { container } = show(<Remedy row={row!} operation={operation} onRun={vi.fn()} />);
    expect(container.textContent).toContain("0.20 cm³ for each millimetre of thickness");
    fireEvent.change(screen.getByLabelText(/Thickness/), { target: { value: "0.5" } });
    expect(container.textContent).toContain("Adds about 0.10 cm³.");
    expect(container.textContent).toContain("Adds about 0.20 cm³.");
  });
});

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
  const given = { revision: revision(), judging: null, waits: false, onStop: vi.fn() };

  it("says that it is being judged, and lets that be stopped", async () => {
    const judging = job("running", { id: 4, kind: "judge", step: "Spreading samples" });
    const head = <WallsHead {...given} waits judging={judging} onJudge={null} />;
    const { user } = show(head);
    expect(screen.getByText("Spreading samples")).toBeTruthy();
    expect(screen.queryByText("Judge it now")).toBeNull();
    await user.click(screen.getByText("Stop"));
    expect(given.onStop).toHaveBeenCalledWith(4);
  });

  it("offers to judge what was stopped, with what became of it", async () => {
    const onJudge = vi.fn();
    const judging = job("cancelled", { kind: "judge", message: "Stopped as asked." });
    const { user } = show(<WallsHead {...given} waits judging={judging} onJudge={onJudge} />);
    expect(screen.getByText("Stopped as asked.")).toBeTruthy();
    await user.click(screen.getByText("Judge it now"));
    expect(onJudge).toHaveBeenCalledTimes(1);
  });

  it("tells the thinnest wall of each kind, enough or not, and leads to all materials", async () => {
    const shown = revision();
    shown.report.thinnest = [
      {
        ...{ kind: "thin-walls", title: "Wall held", thickness_mm: 0.8, limit_mm: 0.7 },
        beyond_mm: 2,
      },
      { kind: "thin-wires", title: "Wire", thickness_mm: null, limit_mm: 1, beyond_mm: 2 },
    ];
    const { user } = show(<WallsHead {...given} revision={shown} onJudge={null} />);
    const lines = screen.getAllByRole("row").map((one) => one.textContent);
    expect(lines).toEqual(["Wall held0.80 of 0.70 mm", "Wirenone under 2.00 mm"]);
    expect(screen.queryByText("Judge it now")).toBeNull();
    await user.click(screen.getByText("All materials"));
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
