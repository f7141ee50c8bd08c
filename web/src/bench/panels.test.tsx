// @vitest-environment jsdom
import { screen, within } from "@testing-library/react";
import { beforeEach, describe, expect, it, vi } from "vitest";
import type { Account, Item, Operation } from "../api/client";
import { show } from "../tests/dom";
import { finding, item, piece, question, revision, segment } from "../tests/makers";
import { AccountOf } from "./account";
import { ChangesLegend } from "./changes-legend";
import { movedBy } from "./moved";
import type { Changes } from "../viewer/changes";
import { Facts } from "./facts";
import { Ledger } from "./ledger";
import { Logbook } from "./logbook";
import { Pieces } from "./pieces";
import { ReleasePanel } from "./release-panel";
import { rowsOf } from "./rows";
import { Seam } from "./seam";
import { SizePanel } from "./size-panel";
import { useBench } from "./store";

const full = (part: Partial<Item> = {}): Item => ({
  ...item(),
  current: 7,
  revisions: [],
  waivers: [],
  releases: [],
  ...part,
});

const operation = (name: string, answers: string[], places = true): Operation => ({
  name,
  title: `Do ${name}`,
  about: `What ${name} does.`,
  answers,
  freely: false,
  parameters: places
    ? [
        {
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
        },
      ]
    : [],
});

beforeEach(() => useBench.getState().reset());

describe("the ledger", () => {
  const holes = {
    ...finding("open-edges", "leak", "Hole, 14 edges", "Hole, 3 edges"),
    places: 5000,
  };
  const broken = revision(holes, finding("open-sheets", "call", "Open sheet"));
  const rows = rowsOf(
    broken,
    question(
      "closed",
      ["open-edges", "hole", "holes"],
      ["open-sheets", "open sheet", "open sheets"],
    ),
  );
  const operations = [
    operation("fill-holes", ["open-edges"]),
    operation("drop-scraps", ["open-sheets"], false),
    operation("unite", ["overlapping-shells"]),
  ];
  const given = {
    rows,
    chosen: null,
    onChoose: vi.fn(),
    operations,
    onRun: vi.fn(),
    onAccept: vi.fn(),
    accepted: new Map<string, string>(),
  };
  beforeEach(() => vi.clearAllMocks());

  it("lists the places with number and measure, and tells which was clicked", async () => {
    const { user } = show(<Ledger {...given} />);
    const lines = screen.getAllByRole("listitem");
    expect(lines.map((line) => line.textContent)).toEqual([
      "1Hole, 14 edges1.0 mm across",
      "2Hole, 3 edges1.0 mm across",
      "3Open sheet1.0 mm across",
    ]);
    await user.click(screen.getByText("Hole, 3 edges"));
    expect(given.onChoose).toHaveBeenCalledWith(rows[1]);
  });

  it("offers the fitting remedies for the chosen place, for it and for all alike", async () => {
    const { user } = show(<Ledger {...given} chosen={2} />);
    expect(screen.queryByText("Do unite")).toBeNull();
    await user.click(screen.getByText("Do fill-holes"));
    expect(given.onRun).toHaveBeenLastCalledWith(operations[0], [2]);
    await user.click(screen.getByText("The same at all 5,000 places"));
    expect(given.onRun).toHaveBeenLastCalledWith(operations[0], null);
    expect(screen.queryByPlaceholderText(/Accept as it is/)).toBeNull();
  });

  it("offers what can be chosen about a remedy by a button of its own", async () => {
    const chosen = operation("untangle", ["open-edges"]);
    chosen.parameters.push({
      ...chosen.parameters[0]!,
      name: "inverted",
      kind: "choice",
      choices: ["ask", "keep"],
      offers: ["", "The same, as material"],
    });
    const { user } = show(<Ledger {...given} operations={[chosen]} chosen={2} />);
    await user.click(screen.getByText("The same, as material"));
    expect(given.onRun).toHaveBeenLastCalledWith(chosen, [2], { inverted: "keep" });
  });

  it("takes measures typed beside a remedy, within their limits", async () => {
    const chosen = operation("give-thickness", ["open-edges"]);
    const thickness = { ...chosen.parameters[0]!, kind: "number" as const, unit: "mm" };
    chosen.parameters.push(
      { ...thickness, name: "thickness", title: "Thickness", least: 0.1, most: 9, default: 1 },
      { ...thickness, name: "reach", title: "Reach", least: 0, most: 5 },
    );
    const { user } = show(<Ledger {...given} operations={[chosen]} chosen={2} />);
    await user.click(screen.getByText("Do give-thickness"));
    expect(given.onRun).toHaveBeenLastCalledWith(chosen, [2], { thickness: 1 });
    await user.clear(screen.getByLabelText(/Thickness/));
    await user.type(screen.getByLabelText(/Thickness/), "2.5");
    await user.type(screen.getByLabelText(/Reach/), "4");
    await user.click(screen.getByText("Do give-thickness"));
    expect(given.onRun).toHaveBeenLastCalledWith(chosen, [2], { thickness: 2.5, reach: 4 });
    await user.type(screen.getByLabelText(/Reach/), "0");
    expect(screen.getByRole("alert").textContent).toBe("Reach: 0 to 5 mm.");
    await user.click(screen.getByText("Do give-thickness"));
    expect(given.onRun).toHaveBeenCalledTimes(2);
  });

  it("asks for a reason before a call is accepted", async () => {
    const { user } = show(<Ledger {...given} chosen={3} />);
    await user.click(screen.getByText("Do drop-scraps"));
    expect(given.onRun).toHaveBeenLastCalledWith(operations[1], null);
    await user.click(screen.getByRole("button", { name: "Accept" }));
    expect(given.onAccept).not.toHaveBeenCalled();
    await user.type(screen.getByLabelText(/Reason/), "  a sail{Enter}");
    expect(given.onAccept).toHaveBeenCalledWith("open-sheets", "a sail");
  });

  it("shows what was accepted, and offers nothing while something runs", () => {
    show(
      <Ledger
        {...given}
        chosen={3}
        onRun={null}
        onAccept={null}
        accepted={new Map([["open-sheets", "a sail"]])}
      />,
    );
    expect(screen.getByText("Accepted: “a sail”")).toBeTruthy();
    expect(screen.getByText("Do drop-scraps").closest("button")!.disabled).toBe(true);
  });
});

describe("the size", () => {
  const panel = (kind?: string, part: Partial<Item> = {}) => {
    const onUnit = vi.fn();
    const onConfirm = vi.fn();
    const found = kind ? [finding(kind, "call", "The whole model")] : [];
    const shown = show(
      <SizePanel
        item={full(part)}
        revision={revision(...found)}
        onUnit={onUnit}
        onConfirm={onConfirm}
      />,
    );
    return { ...shown, onUnit, onConfirm };
  };

  it("shows what each unit would make of the numbers", async () => {
    const { user, onUnit } = panel();
    const choices = screen.getAllByRole("radio").map((one) => one.closest("label")!.textContent);
    expect(choices).toEqual([
      "millimetres10.0 × 10.0 × 10.0 mm",
      "centimetres100.0 × 100.0 × 100.0 mm",
      "metres10,000.0 × 10,000.0 × 10,000.0 mm",
      "inches254.0 × 254.0 × 254.0 mm",
      "feet3,048.0 × 3,048.0 × 3,048.0 mm",
    ]);
    await user.click(screen.getByLabelText(/inches/));
    expect(onUnit).toHaveBeenCalledWith("in");
    expect(screen.queryByText("Keep this size")).toBeNull();
  });

  it.each([
    ["unit-suspect", "The size in millimetres is right."],
    ["too-large", "It is made in parts, or elsewhere."],
    ["too-small", "It is meant to be this small."],
  ])("%s can be kept, with the usual reason or another", async (kind, usual) => {
    const { user, onConfirm } = panel(kind);
    await user.click(screen.getByText("Keep this size"));
    expect(onConfirm).toHaveBeenLastCalledWith(kind, usual);
    await user.type(screen.getByLabelText(/right as it is/), "a model of one");
    await user.click(screen.getByText("Keep this size"));
    expect(onConfirm).toHaveBeenLastCalledWith(kind, "a model of one");
  });

  it("says who kept it and why", () => {
    const waiver = { kind: "too-large", reason: "For the big one.", by: "Odd Ness", at: "" };
    panel("too-large", { waivers: [waiver] as Item["waivers"] });
    expect(screen.getByText("Accepted by Odd Ness: “For the big one.”")).toBeTruthy();
    expect(screen.queryByText("Keep this size")).toBeNull();
  });
});

describe("the pieces", () => {
  const report = {
    ...revision().report,
    shells: 4,
    pieces: [
      piece(0, { longest_mm: 90 }),
      piece(1, { what: "sealed void", within: 0, volume_mm3: -110, longest_mm: 10 }),
      piece(2, { what: "debris", volume_mm3: 0.02, longest_mm: 0.4 }),
    ],
  };

  it("are listed as they lie with what each is, and how many more there are", () => {
    show(<Pieces report={report} onLookAt={vi.fn()} />);
    expect(screen.getAllByRole("listitem").map((one) => one.textContent)).toEqual([
      "1outer skin1.00 cm³, longest side 90.0 mm",
      "2sealed void0.11 cm³, longest side 10.0 mm",
      "3debris0.02 mm³, longest side 0.4 mm",
    ]);
    expect(screen.getByText("4 pieces")).toBeTruthy();
    expect(screen.getByText("The 3 largest are listed.")).toBeTruthy();
  });

  it("can be chosen, hidden, seen alone and all brought back", async () => {
    const onLookAt = vi.fn();
    const { user } = show(<Pieces report={report} onLookAt={onLookAt} />);
    await user.click(screen.getByText("sealed void"));
    expect(onLookAt).toHaveBeenCalledWith(1);
    await user.click(screen.getByText("Hide"));
    expect([...useBench.getState().sight.hidden]).toEqual([1]);
    expect(screen.getByText("hidden")).toBeTruthy();
    await user.click(screen.getByText("Only this"));
    expect(useBench.getState().sight.only).toBe(1);
    expect(screen.getAllByText("hidden")).toHaveLength(2);
    await user.click(screen.getByText(/Show all/));
    expect(screen.queryByText("hidden")).toBeNull();
    await user.click(screen.getByText("sealed void"));
    expect(useBench.getState().piece).toBeNull();
  });
});

describe("a piece that stays apart", () => {
  it("is told in the list, and can be united again", async () => {
    const report = { ...revision().report, shells: 2, pieces: [piece(0), piece(1)] };
    const { user } = show(<Pieces report={report} onLookAt={vi.fn()} />);
    await user.click(screen.getAllByRole("button")[1]!);
    await user.click(screen.getByText("Stays apart"));
    expect([...useBench.getState().apart]).toEqual([1]);
    expect(screen.getByText("apart")).toBeTruthy();
    await user.click(screen.getByText("Stays apart"));
    expect(useBench.getState().apart.size).toBe(0);
  });
});

describe("the seam", () => {
  const segments = [
    segment("size", "tight", "10.0 × 10.0 × 10.0 mm"),
    segment("closed", "leaks", "2 holes"),
    segment("inside", "your call", "1 sealed void"),
  ];

  it("tells each question's state in words and opens the one clicked", async () => {
    const onOpen = vi.fn();
    const { user } = show(<Seam segments={segments} open="closed" onOpen={onOpen} />);
    expect(screen.getAllByRole("tab").map((one) => one.textContent)).toEqual([
      "size10.0 × 10.0 × 10.0 mm",
      "closedleaks: 2 holes",
      "insideyour call: 1 sealed void",
    ]);
    expect(screen.getByRole("tab", { selected: true }).dataset.question).toBe("closed");
    await user.click(screen.getByText("inside"));
    expect(onOpen).toHaveBeenCalledWith("inside");
  });
});

describe("the release", () => {
  it("says what is in the way and leads there", async () => {
    const { user } = show(
      <ReleasePanel
        item={full({
          seam: [segment("closed", "leaks", "2 holes"), segment("release", "not run")],
        })}
        busy={false}
        onRelease={vi.fn()}
      />,
    );
    expect(screen.getByText("Not yet: it must be tight first.")).toBeTruthy();
    expect(screen.queryByRole("radio")).toBeNull();
    await user.click(screen.getByText("closed: 2 holes"));
    expect(useBench.getState().question).toBe("closed");
  });

  it("goes out in the format chosen", async () => {
    const onRelease = vi.fn();
    const { user } = show(
      <ReleasePanel
        item={full({ seam: [segment("closed", "waived"), segment("release", "not run", "ready")] })}
        busy={false}
        onRelease={onRelease}
      />,
    );
    await user.click(screen.getByLabelText(/3MF/));
    await user.click(screen.getByRole("button", { name: /Release/ }));
    expect(onRelease).toHaveBeenCalledWith("3mf");
  });

  it("lists what went out, with its letter", () => {
    const release = {
      id: 3,
      revision: 1,
      format: "stl",
      file_name: "cleat.stl",
      file_bytes: 684,
      by: "Maren Aas",
      at: "2026-11-25T09:00:00Z",
    };
    show(
      <ReleasePanel
        item={full({
          seam: [],
          released: "stl",
          releases: [release] as unknown as Item["releases"],
        })}
        busy={false}
        onRelease={vi.fn()}
      />,
    );
    const line = within(screen.getByTestId("release"));
    expect(line.getByText("cleat.stl")).toBeTruthy();
    expect(line.getByText("Letter to the customer").getAttribute("href")).toBe(
      "/api/releases/3/letter",
    );
    expect(screen.getByRole("button", { name: /Release again/ })).toBeTruthy();
  });
});

describe("the logbook", () => {
  const lines = [0, 1, 2].map((number) => ({
    id: 10 + number,
    number,
    parent: number === 2 ? 10 : number === 1 ? 10 : null,
    operation: "mend",
    title: number ? "mended" : "as received",
    tight: number > 0,
    summary: `${number} triangles`,
    made_by: "Maren Aas",
    made: "2026-11-25T09:00:00Z",
  }));

  it("says which revision work goes on from, and which branched off", async () => {
    const revisions = lines as unknown as Item["revisions"];
    const { user } = show(<Logbook item={full({ current: 12, revisions })} shown={12} />);
    const buttons = screen.getAllByRole("button");
    expect(buttons[2]!.textContent).toContain("from 0, work goes on from here");
    expect(buttons[0]!.textContent).toContain("0 triangles, leaks");
    await user.click(buttons[1]!);
    expect(useBench.getState().viewing).toBe(11);
    await user.click(buttons[2]!);
    expect(useBench.getState().viewing).toBeNull();
  });

  it("begins when the file is read", () => {
    show(<Logbook item={full({ current: null })} shown={null} />);
    expect(screen.getByText("The logbook begins when the file is read.")).toBeTruthy();
  });
});

describe("facts and account", () => {
  const account: Account = {
    triangles: { before: 100, after: 90 },
    vertices: { before: 52, after: 47 },
    volume_mm3: { before: 1000, after: 1000 },
    area_mm2: { before: 604.9, after: 655.1 },
    unchanged_faces: 80,
    new_faces: 10,
    gone_faces: 20,
    touched_area_fraction: 0.1,
    deviation_mm: 0.002,
    deviation_bound_mm: [0.0019, 0.002],
    lost_mm: [0, 0],
    added_mm: [0.0019, 0.002],
    taken_out: { pieces: 2, faces: 24, area_mm2: 1.5 },
    max_deviation_mm: 0.002,
    max_deviation_at: [0, 0, 0],
  };

  it("the account tells before, after and change, and what was left", () => {
    const steps = [{ operation: "fill-holes", text: "2 holes filled.", left: [], account }];
    show(
      <AccountOf revision={{ ...revision(), number: 3, account, steps, left: ["One stays."] }} />,
    );
    expect(screen.getByText("2 holes filled.")).toBeTruthy();
    expect(screen.getByText("Not done. One stays.")).toBeTruthy();
    const cells = (head: string) =>
      [...screen.getByText(head).closest("tr")!.querySelectorAll("td")].map((c) => c.textContent);
    expect(cells("Triangles")).toEqual(["100", "90", "−10"]);
    expect(cells("Volume")[2]).toBe("same");
    // the difference of what is shown, not of what was rounded away
    expect(cells("Area")).toEqual(["6.0 cm²", "6.6 cm²", "+0.6 cm²"]);
    expect(screen.getByText(/moved by/).textContent).toBe(
      "The outer skin moved by 0.002 mm at most. 2 inner parts and crumbs taken out, 1.50 mm² of skin.",
    );
  });

  it.each([
    [[0, 0], "The outer skin is where it was."],
    [[49.7396, 50], "The outer skin moved by 50.0 mm at most, and 49.7 mm at least."],
    [null, "Corners and middles moved by 0.002 mm at most."],
  ])("how far the skin moved is told with its bound %j", (bound, told) => {
    expect(movedBy({ ...account, deviation_bound_mm: bound })).toBe(told);
  });

  it("the map of changes tells the account's figures", () => {
    const changes = { greatest: 2, fresh: 12, faces: 90 } as Changes;
    const given = { account, before: "revision 1" };
    const { container, rerender } = show(
      <ChangesLegend changes={changes} problem={undefined} {...given} />,
    );
    expect(container.textContent).toContain("12 new triangles of 90 since revision 1.");
    expect(container.textContent).toContain("over 1.50");
    expect(container.textContent).toContain("taken out");
    rerender(
      <ChangesLegend changes={{ ...changes, greatest: 0.0004 }} problem={undefined} {...given} />,
    );
    expect(container.textContent).toContain("new, within 0.001 of it");
    expect(container.textContent).not.toContain("over");
    rerender(<ChangesLegend changes={null} problem="404" {...given} />);
    expect(container.textContent).toBe("What changed was not kept for this revision.");
    rerender(<ChangesLegend changes={null} problem={undefined} {...given} />);
    expect(container.textContent).toBe("Comparing with revision 1…");
  });

  it("the file as received has no account", () => {
    const { container } = show(<AccountOf revision={revision()} />);
    expect(container.querySelector("details")).toBeNull();
  });

  it("a decision without a change of shape tells its reason", () => {
    show(<AccountOf revision={{ ...revision(), parameters: { why: "asked by telephone" } }} />);
    expect(screen.getByText("Reason: asked by telephone")).toBeTruthy();
    expect(screen.queryByText("Triangles")).toBeNull();
  });

  it.each([
    [1000, "1.00 cm³"],
    [-1000, "-1.00 cm³, inside out"],
  ])("facts give a volume of %d", (volume_mm3, told) => {
    const one = revision();
    const report = { ...one.report, volume_mm3, notes: ["3 polygons were divided."] };
    show(<Facts item={full({ note: "Mind the lip." })} revision={{ ...one, report }} />);
    expect(screen.getByText(told)).toBeTruthy();
    expect(screen.getByText("Mind the lip.")).toBeTruthy();
    expect(screen.getByText("3 polygons were divided.")).toBeTruthy();
    expect(screen.getByText("cleat.stl").getAttribute("href")).toBe("/api/items/1/received");
  });
});
