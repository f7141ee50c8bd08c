// @vitest-environment jsdom
import { cleanup, fireEvent, screen, waitFor, within } from "@testing-library/react";
import { beforeEach, describe, expect, it, vi } from "vitest";
import type { Account, Cover, Decision, Item, Operation, RevisionLine } from "../api/client";
import { serve, show } from "../tests/dom";
import { cover, finding, full, piece, question, revision, segment } from "../tests/makers";
import { useDrafts } from "../ui/drafts";
import { AccountSheet } from "./account";
import { ChangesLegend } from "./changes-legend";
import { movedBy } from "./moved";
import type { Changes } from "../viewer/changes";
import { Facts } from "./facts";
import { Ledger } from "./ledger";
import { Logbook } from "./logbook";
import { Pieces } from "./pieces";
import { LetterSheet } from "./letter-sheet";
import { ReleasePanel } from "./release-panel";
import { rowsOf } from "./rows";
import { Seam } from "./seam";
import { SizePanel } from "./size-panel";
import { useBench } from "./store";
import type { Shown } from "./use-shown";
import type { Letter } from "./use-letter";
import { apartBy, type Work } from "./use-work";

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
          needed: false,
        },
      ]
    : [],
});

beforeEach(() => {
  useBench.getState().reset();
  useDrafts.setState({ texts: {} });
});

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
    onAccept: vi.fn(() => Promise.resolve()),
    onWithdraw: vi.fn(() => Promise.resolve()),
    item: 1,
    coverOf: () => null,
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
    expect(given.onAccept).toHaveBeenCalledWith("open-sheets", [1], 1, "a sail");
    // once that has come about, what was written is let go
    await waitFor(() => expect(screen.getByLabelText<HTMLInputElement>(/Reason/).value).toBe(""));
  });

  it("accepts one place of several, or all that are listed and counted", async () => {
    const two = revision(finding("sealed-voids", "call", "Void, 3 mm³", "Void, 2 mm³"));
    const lines = rowsOf(two, question("inside", ["sealed-voids", "void", "voids"]));
    const { user } = show(<Ledger {...given} rows={lines} chosen={2} />);
    await user.type(screen.getByLabelText(/Reason/), "to float{Enter}");
    expect(given.onAccept).toHaveBeenLastCalledWith("sealed-voids", [2], 2, "to float");
    await user.type(screen.getByLabelText(/Reason/), "to float");
    await user.click(screen.getByText("Accept all 2 listed"));
    expect(given.onAccept).toHaveBeenLastCalledWith("sealed-voids", null, 2, "to float");
  });

  it("keeps what was written when the refusal comes, and when the place goes and comes", async () => {
    given.onAccept.mockImplementationOnce(() => Promise.reject(new Error("moved on")));
    const { user, unmount } = show(<Ledger {...given} chosen={3} />);
    await user.type(screen.getByLabelText(/Reason/), "a sail{Enter}");
    unmount();
    show(<Ledger {...given} chosen={3} onAccept={null} />);
    expect(screen.getByLabelText<HTMLInputElement>(/Reason/).value).toBe("a sail");
    expect(screen.getByRole<HTMLButtonElement>("button", { name: "Accept" }).disabled).toBe(true);
  });

  it("shows what was accepted and by whom, and takes it back with a reason", async () => {
    const of = (row: { number: number }) => (row.number === 3 ? cover({ index: 4 }) : null);
    const { user } = show(<Ledger {...given} chosen={3} onRun={null} coverOf={of} />);
    expect(screen.getByText(/Accepted by Odd Ness.*“wanted so”/)).toBeTruthy();
    expect(screen.getByText(/^accepted by Odd Ness/)).toBeTruthy();
    expect(screen.queryByPlaceholderText(/Accept as it is/)).toBeNull();
    expect(screen.getByText("Do drop-scraps").closest("button")!.disabled).toBe(true);
    await user.type(screen.getByLabelText(/take the acceptance back/), "it is not{Enter}");
    expect(given.onWithdraw).toHaveBeenCalledWith(5, [4], "it is not");
  });
});

describe("the size", () => {
  const panel = (kind?: string, by: Cover | null = null) => {
    const onUnit = vi.fn();
    const onAccept = vi.fn(() => Promise.resolve());
    const made = revision(...(kind ? [finding(kind, "call", "The whole model")] : []));
    const shown = show(
      <SizePanel
        item={full()}
        revision={made}
        rows={kind ? rowsOf(made, question("size", [kind, "", ""])) : []}
        coverOf={() => by}
        material={undefined}
        onScale={vi.fn()}
        onUnit={onUnit}
        onAccept={onAccept}
        onWithdraw={null}
      />,
    );
    return { ...shown, onUnit, onAccept };
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
    // looking through them starts no work
    await user.click(screen.getByLabelText(/inches/));
    expect(onUnit).not.toHaveBeenCalled();
    await user.click(screen.getByText("Read it in inches"));
    expect(onUnit).toHaveBeenCalledWith("in");
    expect(screen.queryByText("Keep this size")).toBeNull();
  });

  it.each([
    ["unit-suspect", "The size in millimetres is right."],
    ["too-large", "It is made in parts, or elsewhere."],
    ["too-small", "It is meant to be this small."],
  ])("%s can be kept, with the usual reason or another", async (kind, usual) => {
    const { user, onAccept } = panel(kind);
    await user.click(screen.getByText("Keep this size"));
    expect(onAccept).toHaveBeenLastCalledWith(kind, [1], 1, usual);
    await user.type(screen.getByLabelText(/right as it is/), "a model of one");
    await user.click(screen.getByText("Keep this size"));
    expect(onAccept).toHaveBeenLastCalledWith(kind, [1], 1, "a model of one");
  });

  it("takes the unit as told, after which the size itself is judged", async () => {
    const { user, onUnit } = panel("unit-suspect");
    await user.click(screen.getByText("They are millimetres"));
    expect(onUnit).toHaveBeenCalledWith("mm");
    // no more to be told of a size that is not in doubt
    cleanup();
    panel("too-large");
    expect(screen.queryByText("They are millimetres")).toBeNull();
  });

  it("offers what mends it, and tells which of the order are scaled otherwise", async () => {
    const asked = serve({
      "GET /api/items/1/siblings": {
        factor: 1,
        unequal: [{ id: 9, name: "Lid", factor: 25.4 }],
        count: 1,
        equal: 2,
      },
    });
    const operation = {
      name: "cut-to-fit",
      title: "Cut to fit the machine",
      about: "Into equal parts.",
      answers: ["too-large"],
      parameters: [],
    } as unknown as Operation;
    const made = revision(finding("too-large", "call", "The whole model"));
    const onRun = vi.fn();
    const given = {
      item: full(),
      revision: made,
      rows: rowsOf(made, question("size", ["too-large", "", ""])),
      ...{ coverOf: () => null, material: undefined, onScale: null, onUnit: null },
      ...{ onAccept: null, onWithdraw: null, operations: [operation], onRun },
    };
    const { user } = show(<SizePanel {...given} />);
    await user.click(screen.getByText("Cut to fit the machine"));
    expect(onRun).toHaveBeenCalledWith(operation, null);
    expect(await screen.findByText("1 other item of the order is scaled otherwise.")).toBeTruthy();
    expect(screen.getByText("25.4×")).toBeTruthy();
    expect(screen.getByText(/as 2 others are/)).toBeTruthy();
    expect(asked.some((one) => one.path.endsWith("/siblings"))).toBe(true);
  });

  it("says who kept it and why", () => {
    panel("too-large", cover({ reason: "For the big one." }));
    expect(screen.getByText("Accepted by Odd Ness: “For the big one.”")).toBeTruthy();
    expect(screen.queryByText("Keep this size")).toBeNull();
  });
});

const whole = { item: 1, apart: [], onApart: null };

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
    show(
      <Pieces
        {...whole}
        report={report}
        onLookAt={vi.fn()}
        onChooseFaces={vi.fn()}
        onOperate={null}
      />,
    );
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
    const { user } = show(
      <Pieces
        {...whole}
        report={report}
        onLookAt={onLookAt}
        onChooseFaces={vi.fn()}
        onOperate={null}
      />,
    );
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
  const report = {
    ...revision().report,
    shells: 2,
    pieces: [piece(0), piece(1, { number: 6 })],
  };

  it("is decided with a reason, by the number that it keeps", async () => {
    const onApart = vi.fn(() => Promise.resolve());
    const given = {
      ...whole,
      report,
      onApart,
      onLookAt: vi.fn(),
      onChooseFaces: vi.fn(),
      onOperate: null,
    };
    const { user, unmount } = show(<Pieces {...given} />);
    await user.click(screen.getAllByRole("button")[1]!);
    await user.click(screen.getByText("Stays apart"));
    await user.type(screen.getByLabelText("Reason"), "it turns{Enter}");
    expect(onApart).toHaveBeenLastCalledWith(6, true, "it turns");
    await waitFor(() => expect(screen.queryByLabelText("Reason")).toBeNull());
    unmount();
    const apart = show(<Pieces {...given} apart={[6]} />);
    expect(screen.getByText("apart")).toBeTruthy();
    await apart.user.click(screen.getByText("Stays apart"));
    await apart.user.type(screen.getByLabelText("Reason"), "glued{Enter}");
    expect(onApart).toHaveBeenLastCalledWith(6, false, "glued");
  });

  it("is found among the decisions until that one is taken back", () => {
    const place = { title: "Piece 6", measure: "", piece: 6 };
    const decision = {
      ...{ id: 9, act: "accept", kind: "stays-apart", revision: 0, withdraws: null },
      ...{ material: null, about: {}, reason: "", by: "", at: "" },
      places: [{ ...place, piece: 2 }, place],
      holds: [0, 1],
    } as Decision;
    expect(apartBy([decision], 6)).toEqual({ decision, index: 1 });
    expect(apartBy([{ ...decision, holds: [0] }], 6)).toBeNull();
    expect(apartBy([decision], 3)).toBeNull();
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
  const text = { opening: "Checked.", found: "One hole.", changed: "", accepted: "" };
  const letter = (part: Partial<Letter> = {}): Letter => ({
    proposal: {
      revision: 7,
      rests_on: "70 0",
      letter: text,
      offers: [
        { format: "3mf", file_name: "cleat.3mf" },
        { format: "stl", file_name: "cleat.stl" },
      ],
    },
    text,
    edited: false,
    write: vi.fn(),
    asProposed: vi.fn(),
    ...part,
  });
  const working = () => {
    const release = vi.fn(() => Promise.resolve());
    const takeBack = { mutateAsync: vi.fn(() => Promise.resolve()) };
    const setAside = { mutateAsync: vi.fn(() => Promise.resolve()) };
    const actions = { takeBack, setAside };
    const work = { canWork: true, busy: false, release, actions } as unknown as Work;
    return { work, release, takeBack, setAside };
  };
  const sealed = [segment("closed", "waived"), segment("release", "not run", "ready")];

  it("says what is in the way and leads there", async () => {
    const { work } = working();
    const seam = [segment("closed", "leaks", "2 holes"), segment("release", "not run")];
    const { user } = show(
      <ReleasePanel
        item={full({ seam, ready: false })}
        revision={revision()}
        work={work}
        letter={null}
      />,
    );
    expect(screen.getByText("Not yet: these are open.")).toBeTruthy();
    expect(screen.queryByRole("radio")).toBeNull();
    await user.click(screen.getByText("leaks: 2 holes"));
    expect(useBench.getState().question).toBe("closed");
  });

  it("asks once, and goes out in the format chosen, with the letter as it reads", async () => {
    const { work, release } = working();
    const { user } = show(
      <ReleasePanel
        item={full({ seam: sealed })}
        revision={revision()}
        work={work}
        letter={letter()}
      />,
    );
    // the shop's own format comes first
    expect(screen.getByLabelText<HTMLInputElement>(/3MF/).checked).toBe(true);
    await user.click(screen.getByLabelText(/STL/));
    await user.click(screen.getByRole("button", { name: /^Release…/ }));
    expect(release).not.toHaveBeenCalled();
    await user.click(screen.getByText("Not yet"));
    await user.click(screen.getByRole("button", { name: /^Release…/ }));
    await user.click(screen.getByText("Release as STL"));
    expect(release).toHaveBeenCalledTimes(1);
    const [format, sent] = release.mock.calls[0] as unknown as [string, Letter];
    expect([format, sent.text, sent.proposal.rests_on]).toEqual(["stl", text, "70 0"]);
  });

  it("shows the letter as it will go, each part to be written anew", async () => {
    const shown = letter({ edited: true });
    const { user } = show(<LetterSheet item={full()} letter={shown} />);
    expect(screen.getByLabelText<HTMLTextAreaElement>(/What we found/).value).toBe("One hole.");
    await user.type(screen.getByLabelText("Opening"), "!");
    expect(shown.write).toHaveBeenLastCalledWith("opening", "Checked.!");
    await user.click(screen.getByText("As proposed"));
    expect(shown.asProposed).toHaveBeenCalled();
  });

  it("lists what went out, with its letter, and withdraws it with a reason", async () => {
    const { work, takeBack } = working();
    const one = {
      ...{ id: 3, revision: 1, format: "stl", file_name: "cleat.stl", file_bytes: 684 },
      ...{ by: "Maren Aas", at: "2026-11-25T09:00:00Z", withdrawal: null },
    };
    const given = { revision: revision(), work, letter: null };
    const went = full({ seam: [], ready: false, released: one.at, releases: [one] });
    const { user, unmount } = show(<ReleasePanel item={went} {...given} />);
    const line = within(screen.getByTestId("release"));
    expect(line.getByText("cleat.stl")).toBeTruthy();
    expect(line.getByText("Letter to the customer").getAttribute("href")).toBe(
      "/api/releases/3/letter",
    );
    await user.type(line.getByLabelText(/withdraw/), "the wrong one{Enter}");
    expect(takeBack.mutateAsync).toHaveBeenCalledWith({ release: 3, reason: "the wrong one" });
    unmount();
    const withdrawal = { reason: "the wrong one", by: "Odd Ness", at: one.at };
    const back = full({ seam: [], releases: [{ ...one, withdrawal }] });
    show(<ReleasePanel item={back} {...given} />);
    expect(screen.getByText(/Withdrawn by Odd Ness.*“the wrong one”/)).toBeTruthy();
  });

  it("can be set aside instead", async () => {
    const { work, setAside } = working();
    const given = { revision: revision(), work, letter: null };
    const { user } = show(<ReleasePanel item={full({ ready: false, seam: [] })} {...given} />);
    await user.type(screen.getByLabelText("Reason to set it aside"), "not paid{Enter}");
    expect(setAside.mutateAsync).toHaveBeenCalledWith({ aside: true, reason: "not paid" });
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

  const logbookWork = { mayKeep: false } as Parameters<typeof Logbook>[0]["work"];

  it("says which revision work goes on from, and which branched off", async () => {
    const revisions = lines as unknown as Item["revisions"];
    const book = (shown: number) => (
      <Logbook
        item={full({ current: 12, revisions })}
        shown={shown}
        work={logbookWork}
        onTrail={vi.fn()}
      />
    );
    const { user, rerender } = show(book(12));
    const buttons = screen.getAllByRole("button");
    expect(buttons[2]!.textContent).toContain("from 0, work goes on from here");
    expect(buttons[0]!.textContent).toContain("0 triangles, leaks");
    await user.click(buttons[1]!);
    expect(useBench.getState().viewing).toBe(11);
    rerender(book(11));
    await user.click(screen.getAllByRole("button")[2]!);
    expect(useBench.getState().viewing).toBeNull();
    rerender(book(12));
    await user.click(screen.getAllByRole("button")[2]!);
    expect(useBench.getState().account).toBe(12);
  });

  it("begins when the file is read", () => {
    show(
      <Logbook item={full({ current: null })} shown={null} work={logbookWork} onTrail={vi.fn()} />,
    );
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

  const sheet = {
    before: undefined,
    material: "sintered-nylon",
    quantity: 12,
    onShow: null,
    onClose: vi.fn(),
  };

  it("the account tells before, after and change, and what was left", () => {
    const steps = [{ operation: "fill-holes", text: "2 holes filled.", left: [], account }];
    show(
      <AccountSheet
        {...sheet}
        revision={{ ...revision(), number: 3, account, steps, left: ["One stays."] }}
      />,
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
    const line = (id: number, parent: number | null) =>
      ({ id, number: id, parent, title: "mended", name: "" }) as RevisionLine;
    const idle = { job: null, problem: undefined, start: () => undefined, stop: () => undefined };
    const revisions = [line(1, null), line(2, 1), line(3, 2)];
    const legend = (changes: Changes | null, given: Partial<Shown> = {}) => (
      <ChangesLegend
        item={{ revisions }}
        shown={{
          line: revisions[1],
          against: revisions[0],
          changes,
          changesProblem: undefined,
          compared: { ...idle, account },
          ...given,
        }}
      />
    );
    const { container, rerender } = show(legend(changes));
    expect(container.textContent).toContain("12 triangles of 90 were not there in revision 1.");
    expect(container.textContent).toContain("over 1.50");
    expect(container.textContent).toContain("taken out");
    rerender(legend({ ...changes, greatest: 0.0004 }));
    expect(container.textContent).toContain("new, within 0.001 of it");
    expect(container.textContent).not.toContain("over");
    rerender(legend(null, { changesProblem: "404" }));
    expect(container.textContent).toContain("What changed was not kept for this revision.");
    rerender(legend(null));
    expect(container.textContent).toContain("Fetching what changed…");
    // of two of which neither was made of the other, it is computed first
    const start = vi.fn();
    const stopped = { ...idle, account: null, problem: "Stopped as asked.", start };
    const apart = { line: revisions[2], against: revisions[0], compared: stopped };
    rerender(legend(null, apart));
    expect(container.textContent).toContain("Stopped as asked.");
    fireEvent.click(screen.getByRole("button", { name: "Compare them" }));
    expect(start).toHaveBeenCalledOnce();
    fireEvent.change(screen.getByLabelText("Changed since"), { target: { value: "2" } });
    expect(useBench.getState().since).toBe(2);
  });

  it("the file as received has no account", () => {
    show(<AccountSheet {...sheet} revision={revision()} />);
    expect(screen.getByText("This is the file as it was received.")).toBeTruthy();
    expect(screen.queryByText("Triangles")).toBeNull();
  });

  it("a decision without a change of shape tells its reason", () => {
    show(
      <AccountSheet
        {...sheet}
        revision={{ ...revision(), parameters: { why: "asked by telephone" } }}
      />,
    );
    expect(screen.getByText("Reason: asked by telephone")).toBeTruthy();
    expect(screen.queryByText("Triangles")).toBeNull();
  });

  it("facts tell how large the file would be, and what is too much for the shop", async () => {
    serve({ "GET /api/shop": { values: { file_megabytes: 1 }, settings: [], by: "", at: null } });
    const one = revision();
    const report = { ...one.report, triangles: 100_000 };
    show(<Facts item={full()} revision={{ ...one, report }} />);
    expect(await screen.findByText("5.0 MB, 1.0 MB at most")).toBeTruthy();
    expect(screen.getByText("about 1.5 MB, 1.0 MB at most")).toBeTruthy();
    expect(screen.getByLabelText("Size of the file").title).toContain("OBJ about 4.7 MB");
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
