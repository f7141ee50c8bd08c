// @vitest-environment jsdom
import { cleanup, fireEvent, render, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import type { Operation, Revision } from "../api/client";
import { Rework, usualReach, standingText } from "./rework";
import type { EarlierState } from "../ui/operation-fields";
import { useBench } from "./store";

const number = (name: string, title: string, least: number, most: number) => ({
  name,
  title,
  about: "",
  kind: "number" as const,
  choices: [],
  offers: [],
  unit: "mm",
  least,
  most,
  default: null,
  empty: "no limit",
  needed: false,
});
const plain = {
  about: "",
  choices: [],
  offers: [],
  unit: "",
  least: 0,
  most: 0,
  empty: "",
  needed: false,
};
const region = {
  ...plain,
  name: "region",
  title: "Region",
  kind: "region",
  default: null,
} as const;
const OPERATIONS: Operation[] = [
  { name: "fill-holes", title: "Close", about: "", answers: [], freely: false, parameters: [] },
  {
    name: "reduce",
    title: "Reduce the triangles",
    about: "Fewer.",
    answers: [],
    freely: true,
    parameters: [
      number("deviation", "Deviation", 0.001, 10),
      { ...plain, name: "edges", title: "Edges stay", kind: "switch", default: false },
    ],
  },
  {
    name: "refine",
    title: "Refine a region",
    about: "More.",
    answers: [],
    freely: true,
    parameters: [{ ...region, empty: "The whole model", needed: false }],
  },
  {
    name: "recast-zone",
    title: "Recast a region",
    about: "Anew.",
    answers: [],
    freely: true,
    parameters: [region],
  },
  {
    name: "restore-detail",
    title: "Bring detail back",
    about: "As it was.",
    answers: [],
    freely: true,
    parameters: [
      { ...plain, name: "others", title: "As it was", kind: "meshes", needed: true, default: null },
    ],
  },
  // offered with the pieces, and with the section plane
  ...(["pieces", "vector"] as const).map((kind) => ({
    name: `by-${kind}`,
    title: `By ${kind}`,
    about: "",
    answers: [],
    freely: true,
    parameters: [{ ...plain, name: kind, title: kind, kind, needed: true, default: null }],
  })),
];
const REVISION = { id: 7, report: { triangles: 1200, size_mm: [10, 120, 7] } } as Revision;

const asked: unknown[] = [];
let refused = false;
vi.mock("../api/queries", () => ({
  useCost: (revision: number | null, _: string, parameters: string) => {
    asked.push(JSON.parse(parameters));
    const text = refused ? "Too fine." : "It takes a moment.";
    return { data: revision === null ? undefined : { text, refused } };
  },
}));

function show(earlier: EarlierState[] = []) {
  const run = vi.fn();
  render(
    <Rework
      revision={REVISION}
      operations={OPERATIONS}
      earlier={earlier}
      place={undefined}
      onRun={run}
    />,
  );
  return run;
}

const press = (words: RegExp) => fireEvent.click(screen.getByRole("button", { name: words }));

beforeEach(() => {
  asked.length = 0;
  refused = false;
  useBench.getState().reset();
});
afterEach(cleanup);

describe("how a model stands", () => {
  it("is told with its margin", () => {
    expect(standingText(26.6)).toContain("can be tilted by 27°");
    expect(standingText(-5.7)).toContain("6° beyond its foot");
  });
});

describe("reworking at large", () => {
  it("offers what may be run freely, tells what it takes, and runs it with what was given", async () => {
    const run = show();
    expect(screen.queryByText("Close")).toBeNull();
    expect(screen.queryByText(/^By /)).toBeNull();
    press(/^Reduce/);
    fireEvent.change(screen.getByLabelText(/Deviation/), { target: { value: "0.05" } });
    fireEvent.click(screen.getByLabelText("Edges stay"));
    expect(await screen.findByText("It takes a moment.")).toBeTruthy();
    await waitFor(() => expect(asked.at(-1)).toEqual({ deviation: 0.05, edges: true }));
    fireEvent.submit(screen.getByLabelText("Edges stay").closest("form")!);
    expect(run).toHaveBeenCalledWith(OPERATIONS[1], null, { deviation: 0.05, edges: true });
  });

  it("brings back from the state that was meant, and from none where there is none", () => {
    const run = show([
      { id: 5, called: "1 mended" },
      { id: 4, called: "0 received" },
    ]);
    press(/^Bring/);
    expect(screen.getByLabelText<HTMLSelectElement>("As it was").value).toBe("5");
    fireEvent.change(screen.getByLabelText("As it was"), { target: { value: "4" } });
    fireEvent.submit(screen.getByLabelText("As it was").closest("form")!);
    expect(run).toHaveBeenCalledWith(OPERATIONS[4], null, { others: [4] });
    cleanup();
    show();
    press(/^Bring/);
    expect(screen.getByText("There is no other state of it yet.")).toBeTruthy();
    expect(screen.getAllByRole("button", { name: "Bring detail back" }).at(-1)).toHaveProperty(
      "disabled",
      true,
    );
  });

  it.each([
    ["a number out of its limits", "50", false],
    ["what would be refused", "5", true],
  ])("does not run %s", async (_, value, no) => {
    refused = no;
    const run = show();
    press(/^Reduce/);
    fireEvent.change(screen.getByLabelText(/Deviation/), { target: { value } });
    await screen.findByText(no ? "Too fine." : "Deviation: 0.001 to 10 mm.");
    fireEvent.submit(screen.getByLabelText("Edges stay").closest("form")!);
    expect(run).not.toHaveBeenCalled();
  });

  it("means the whole model until points are picked, and each can be taken back", async () => {
    const run = show();
    press(/^Refine/);
    expect(useBench.getState().region.picking).toBe(true);
    expect(screen.getByText("The whole model.")).toBeTruthy();
    useBench.getState().setRegion({
      points: [
        [1, 2, 3],
        [4, 5, 6],
      ],
    });
    expect(await screen.findByText("2 points")).toBeTruthy();
    press(/Take the last back/);
    fireEvent.change(screen.getByLabelText(/How far round/), { target: { value: "4" } });
    fireEvent.submit(screen.getByLabelText(/How far round/).closest("form")!);
    expect(run).toHaveBeenCalledWith(OPERATIONS[2], null, { region: [[1, 2, 3, 4]] });
    press(/^The whole model/);
    expect(useBench.getState().region.points).toEqual([]);
  });

  it("asks for points where the whole model is not meant", async () => {
    show();
    press(/^Recast a region/);
    expect(screen.getByText("Click on the model where it is to be done.")).toBeTruthy();
    useBench.getState().setRegion({ points: [[1, 2, 3]] });
    fireEvent.click(await screen.findByText("Take all back"));
    expect(useBench.getState().region.points).toEqual([]);
  });

  it("begins with a twelfth of the longest side", () => expect(usualReach(REVISION)).toBe(10));

  it("goes back to the findings and lets go of the region", () => {
    useBench.getState().setRework(true);
    useBench.getState().setRegion({ points: [[1, 2, 3]] });
    show();
    press(/^Findings/);
    expect(useBench.getState().rework).toBe(false);
    expect(useBench.getState().region.points).toEqual([]);
  });
});
