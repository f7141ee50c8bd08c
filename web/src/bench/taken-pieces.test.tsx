// @vitest-environment jsdom
import { screen, within } from "@testing-library/react";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { show } from "../tests/dom";
import type { Material, Operation } from "../api/client";
import type { EarlierState } from "../ui/operation-fields";
import { piece } from "../tests/makers";
import { nestedPieces, Pieces } from "./pieces";
import { useBench } from "./store";
import { TakenPieces } from "./taken-pieces";

type Parameter = Operation["parameters"][number];
const parameter = (name: string, kind: Parameter["kind"], more: Partial<Parameter> = {}) => ({
  name,
  title: name[0]!.toUpperCase() + name.slice(1),
  about: "",
  kind,
  choices: [],
  offers: [],
  unit: "mm",
  least: 0,
  most: 1000,
  empty: "",
  default: null,
  needed: false,
  ...more,
});
const able = (name: string, ...parameters: Parameter[]): Operation => ({
  name,
  title: name,
  about: `About ${name}.`,
  answers: [],
  freely: true,
  parameters: [...parameters, parameter("pieces", "pieces")],
});
const OPERATIONS = [
  able("unite", parameter("others", "meshes")),
  able(
    "subtract",
    parameter("clearance", "number", { default: 0, most: 20 }),
    parameter("keep", "switch", { default: false }),
  ),
  able("move", parameter("by", "vector", { needed: true })),
  able(
    "copy",
    parameter("by", "vector", { needed: true }),
    parameter("count", "number", { default: 1, least: 1 }),
  ),
  able("put-back", parameter("others", "meshes", { needed: true })),
  able("cut-out", parameter("shape", "choice", { choices: ["block", "piece"] })),
];
const material = { rules: { clearance: 0.4 } } as Material;

function taken(numbers: number[], of: number, earlier: EarlierState[] = []) {
  const onOperate = vi.fn();
  const onDerive = vi.fn().mockResolvedValue(undefined);
  const onCarry = vi.fn();
  const plain = { onHide: vi.fn(), onOnly: vi.fn(), onChooseFaces: vi.fn(), onLetGo: vi.fn() };
  const shown = show(
    <TakenPieces
      {...plain}
      taken={numbers}
      of={of}
      operations={OPERATIONS}
      material={material}
      onOperate={onOperate}
      onDerive={onDerive}
      onCarry={onCarry}
      earlier={earlier}
    />,
  );
  return { ...shown, onOperate, onDerive, onCarry };
}

beforeEach(() => useBench.getState().reset());

describe("taken pieces", () => {
  it("are copied by steps that are typed; an empty one is none", async () => {
    const { user, onOperate } = taken([4, 7], 3);
    await user.click(screen.getByText("Copy…"));
    const sheet = within(screen.getByRole("dialog"));
    expect(sheet.getByText("Copy: piece 4, 7")).toBeTruthy();
    const go = sheet.getByRole<HTMLButtonElement>("button", { name: "Copy" });
    expect(go.disabled).toBe(true);
    await user.type(sheet.getByLabelText("By, y"), "12.5");
    await user.click(go);
    expect(onOperate).toHaveBeenCalledWith("copy", [4, 7], { by: [0, 12.5, 0], count: 1 });
    expect(screen.queryByRole("dialog")).toBeNull();
  });

  it("are taken in hand to be moved", async () => {
    const { user, onCarry } = taken([4, 7], 3);
    await user.click(screen.getByText("Move…"));
    expect(onCarry).toHaveBeenCalledOnce();
  });

  it("leave a seat with the material's clearance, unless it is told otherwise", async () => {
    const { user, onOperate } = taken([2], 2);
    await user.click(screen.getByText("Take off the rest…"));
    const sheet = within(screen.getByRole("dialog"));
    expect(sheet.getByLabelText<HTMLInputElement>(/Clearance/).value).toBe("0.4");
    await user.click(sheet.getByLabelText("Keep"));
    await user.click(sheet.getByRole("button", { name: "Take off the rest" }));
    expect(onOperate).toHaveBeenCalledWith("subtract", [2], { clearance: 0.4, keep: false });
  });

  it("go back where they were in any state that there is another of", async () => {
    const { user, onOperate } = taken([2], 3, [
      { id: 11, called: "0, as received" },
      { id: 14, called: "1, moved" },
    ]);
    await user.click(screen.getByText("Put back…"));
    const sheet = within(screen.getByRole("dialog"));
    const states = sheet.getByLabelText<HTMLSelectElement>("Others");
    expect(states.value).toBe("11");
    await user.selectOptions(states, "1, moved");
    await user.click(sheet.getByRole("button", { name: "Put back" }));
    expect(onOperate).toHaveBeenCalledWith("put-back", [2], { others: [14] });
  });

  it("have nowhere to go back to while there is one state only", () => {
    taken([2], 3);
    expect(screen.queryByText("Put back…")).toBeNull();
  });

  it("are offered only what makes sense of so many", () => {
    taken([1, 2], 2);
    expect(screen.getByText("Unite")).toBeTruthy();
    expect(screen.queryByText("Take off the rest…")).toBeNull();
    expect(screen.queryByText("Cut the rest with it…")).toBeNull();
    // what the server does not know is not offered
    expect(screen.queryByText("Turn…")).toBeNull();
    expect(screen.queryByText("Put back as received")).toBeNull();
  });

  it("cut the rest, which asks for nothing that they settle", async () => {
    const { user, onOperate } = taken([2], 2);
    await user.click(screen.getByText("Cut the rest with it…"));
    await user.click(screen.getByRole("button", { name: "Cut the rest with it" }));
    expect(onOperate).toHaveBeenCalledWith("cut-out", [2], { shape: "piece" });
  });

  it("become an item with a name, and leave the one that they are of", async () => {
    const { user, onDerive } = taken([2], 2);
    await user.click(screen.getByText("Make an item…"));
    const sheet = within(screen.getByRole("dialog"));
    expect(sheet.getByRole<HTMLButtonElement>("button", { name: "Make the item" }).disabled).toBe(
      true,
    );
    await user.type(sheet.getByLabelText("Name of the item"), " Cleat ");
    await user.click(sheet.getByRole("button", { name: "Make the item" }));
    expect(onDerive).toHaveBeenCalledWith({ name: "Cleat", each: false, takeOut: true });
  });

  it("become an item each without a name being typed", async () => {
    const { user, onDerive } = taken([2, 5, 6], 4);
    await user.click(screen.getByText("Make an item…"));
    const sheet = within(screen.getByRole("dialog"));
    await user.click(sheet.getByLabelText(/an item each/));
    expect(sheet.queryByLabelText("Name of the item")).toBeNull();
    await user.click(sheet.getByLabelText("They leave this item"));
    await user.click(sheet.getByRole("button", { name: "Make 3 items" }));
    expect(onDerive).toHaveBeenCalledWith({ name: "", each: true, takeOut: false });
  });

  it("that are all there is stay in the item, and a refusal is told", async () => {
    const { user, onDerive } = taken([1, 2], 2);
    onDerive.mockRejectedValueOnce(new Error("Somebody has work going on here."));
    await user.click(screen.getByText("Make an item…"));
    const sheet = within(screen.getByRole("dialog"));
    expect(sheet.queryByLabelText("They leave this item")).toBeNull();
    await user.type(sheet.getByLabelText("Name of the item"), "Variant{Enter}");
    expect(onDerive).toHaveBeenCalledWith({ name: "Variant", each: false, takeOut: false });
    expect((await sheet.findByRole("alert")).textContent).toContain("work going on");
  });
});

describe("a piece's name", () => {
  const report = { shells: 2, pieces: [piece(0, { name: "solid a" }), piece(1)] };

  it("is what people call it, else what the file does", () => {
    const named = nestedPieces(report.pieces, { 2: "Lid" });
    expect(named.map((one) => one.name)).toEqual(["solid a", "Lid"]);
  });

  it("is typed at the piece, kept, or let be by Escape", async () => {
    const onName = vi.fn().mockResolvedValue(undefined);
    const { user } = show(
      <Pieces
        item={1}
        report={report as never}
        apart={[]}
        names={{}}
        onName={onName}
        onApart={null}
        onLookAt={vi.fn()}
        onChooseFaces={vi.fn()}
        onOperate={null}
      />,
    );
    await user.click(document.querySelector<HTMLElement>("[data-piece='2']")!);
    await user.click(screen.getByText("Name it"));
    await user.type(screen.getByLabelText("Name of piece 2"), "Lid{Escape}");
    expect(screen.queryByLabelText("Name of piece 2")).toBeNull();
    expect(onName).not.toHaveBeenCalled();
    await user.click(screen.getByText("Name it"));
    await user.type(screen.getByLabelText("Name of piece 2"), "Lid{Enter}");
    expect(onName).toHaveBeenCalledWith(2, "Lid");
  });
});
