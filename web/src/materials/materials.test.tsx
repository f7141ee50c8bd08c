// @vitest-environment jsdom
import { screen, waitFor, within } from "@testing-library/react";
import { describe, expect, it, vi } from "vitest";
import type { Demand, Material } from "../api/client";
import { serve, show } from "../tests/dom";
import { item, page, person, rules } from "../tests/makers";
import { keyOf } from "./new-material";
import MaterialsScreen from "./screen";

const lead = person({ username: "odd", name: "Odd Lervik", lead: true });
const nylon: Material = {
  id: 1,
  key: "nylon",
  name: "Nylon",
  process: "Sintering",
  edition: 2,
  rules: rules(),
};
const demands: Demand[] = [
  { name: "wall_free", title: "Wall, free", about: "", unit: "mm", least: 0, most: 100 },
  { name: "smallest", title: "Smallest part", about: "", unit: "mm", least: 0, most: 100 },
];
const edition = (number: number, wall_free: number) => ({
  number,
  why: "test bars broke",
  by: "Odd Lervik",
  at: "2026-11-25T09:00:00Z",
  rules: { ...rules(), wall_free },
  changes: number > 1 ? [{ name: "wall_free", before: 0.8, now: wall_free }] : [],
});
const routes = {
  "GET /api/materials": [nylon],
  "GET /api/demands": demands,
  "GET /api/machines": [{ id: 4, name: "Dock", process: "Sintering", x: 400, y: 400, z: 600 }],
  "GET /api/materials/nylon/editions": [edition(2, 0.9), edition(1, 0.8)],
  "GET /api/jobs": [],
  "PUT /api/materials/nylon": nylon,
  "POST /api/materials/bring": { changed: ["Nylon"], unchanged: [] },
  "POST /api/machines": {},
};

const setting = { about: "", unit: "", choices: [], offers: [], least: 0, most: 0, empty: "" };
const held = {
  values: { near_gap: 0.05, voids: "ask" },
  settings: [
    {
      ...setting,
      ...{ name: "near_gap", title: "Near gap", kind: "number", unit: "mm" },
      ...{ least: 0.001, most: 5, default: 0.05 },
    },
    {
      ...setting,
      ...{ name: "voids", title: "Sealed voids", kind: "choice", default: "ask" },
      choices: ["ask", "fill"],
      offers: ["a person decides", "they are filled"],
    },
  ],
  by: "",
  at: null,
};
const shop = { "GET /api/shop": held, "PUT /api/shop": held };

describe("materials", () => {
  it("make a key of a name", () => {
    expect(keyOf("Weißes Porzellan, 2")).toBe("wei-es-porzellan-2");
    expect(keyOf("  Pärl nylon ")).toBe("pa-rl-nylon");
  });

  it("are changed by the lead, with the reason", async () => {
    const asked = serve(routes);
    const { user } = show(<MaterialsScreen person={lead} />, "/materials");
    const wall = await screen.findByLabelText("Wall, free");
    expect(screen.getByText(/its largest part fits Dock/)).toBeTruthy();
    const save = screen.getByText<HTMLButtonElement>("Save as edition 3");
    expect(save.disabled).toBe(true);
    await user.clear(wall);
    await user.type(wall, "-1");
    expect(wall.getAttribute("aria-invalid")).toBe("true");
    expect(save.disabled).toBe(true);
    await user.clear(wall);
    await user.type(wall, "1.2");
    await user.type(screen.getByLabelText("Why it changes"), "new powder");
    await user.click(save);
    await waitFor(() => expect(asked.some((one) => one.method === "PUT")).toBe(true));
    const put = asked.find((one) => one.method === "PUT")!.body as {
      rules: { wall_free: number; largest: number[] };
      why: string;
    };
    expect(put.why).toBe("new powder");
    expect(put.rules).toMatchObject({ wall_free: 1.2, largest: rules().largest });
  });

  it("show their history, and let an earlier sheet hold again", async () => {
    const asked = serve(routes);
    const { user } = show(<MaterialsScreen person={lead} />, "/materials");
    const list = await screen.findByLabelText("Editions");
    await within(list).findByText(/Wall, free: 0.8/);
    await user.click(within(list).getByText("Let it hold again"));
    await waitFor(() => expect(asked.some((one) => one.method === "PUT")).toBe(true));
    const put = asked.find((one) => one.method === "PUT")!.body;
    expect(put).toMatchObject({ why: "as in edition 1", rules: { wall_free: 0.8 } });
  });

  it("come in from a file, or say what is wrong with it", async () => {
    serve(routes);
    const { user } = show(<MaterialsScreen person={lead} />, "/materials");
    await screen.findByLabelText("Wall, free");
    const input = screen.getByLabelText("File of rule sheets");
    await user.upload(input, new File(["no json"], "odd.json", { type: "application/json" }));
    await screen.findByText(/odd.json holds no rule sheets/);
    const good = JSON.stringify({ sheets: [rules()] });
    await user.upload(input, new File([good], "good.json", { type: "application/json" }));
    await screen.findByText(/Taken: Nylon/);
  });

  it("are only read by others", async () => {
    serve(routes);
    show(<MaterialsScreen person={{ ...lead, lead: false }} />, "/materials");
    const wall = await screen.findByLabelText<HTMLInputElement>("Wall, free");
    expect(wall.readOnly).toBe(true);
    expect(screen.queryByText(/Save as edition/)).toBeNull();
    expect(screen.queryByText("Add a machine")).toBeNull();
    expect(screen.getByText("The shop lead changes rule sheets.")).toBeTruthy();
  });

  it("say how many items a change touches, refuse a contradiction, and ask before it is lost", async () => {
    const held = { ...demands[0]!, name: "wall_supported", title: "Wall, held" };
    const items = [item(), item({ id: 2 })];
    serve({ ...routes, "GET /api/demands": [held, ...demands], "GET /api/items": page(...items) });
    const { user } = show(<MaterialsScreen person={lead} />, "/materials");
    const wall = await screen.findByLabelText("Wall, free");
    expect(screen.queryByText(/judges/)).toBeNull();
    await user.clear(wall);
    await user.type(wall, "1.5");
    expect(await screen.findByText(/Saving judges 2 items anew/)).toBeTruthy();
    const ask = vi.spyOn(window, "confirm").mockReturnValue(false);
    await user.click(screen.getByText("Orders"));
    expect(ask).toHaveBeenCalledTimes(1);
    expect(screen.getByTestId("where").textContent).toBe("/materials");
    await user.clear(wall);
    await user.type(wall, "0.5");
    expect(screen.getByRole("alert").textContent).toContain("must not be more than Wall, free");
    expect(screen.getByRole<HTMLButtonElement>("button", { name: /Save/ }).disabled).toBe(true);
    await user.click(screen.getByText("Back"));
    await user.click(screen.getByText("Orders"));
    expect(screen.getByTestId("where").textContent).toBe("/");
    ask.mockRestore();
  });

  it("hang on limits and a policy that the lead settles for all of them", async () => {
    const asked = serve({ ...routes, ...shop });
    const { user } = show(<MaterialsScreen person={lead} />, "/materials");
    await screen.findByLabelText("Wall, free");
    await user.keyboard("{Shift>}L{/Shift}");
    const gap = await screen.findByLabelText(/Near gap/);
    const settle = screen.getByRole<HTMLButtonElement>("button", { name: "Settle" });
    expect(settle.disabled).toBe(true);
    await user.clear(gap);
    await user.type(gap, "9");
    expect(screen.getByText("Near gap: 0.001 to 5 mm.")).toBeTruthy();
    expect(settle.disabled).toBe(true);
    await user.clear(gap);
    await user.type(gap, "0.2");
    await user.selectOptions(screen.getByLabelText(/Sealed voids/), "they are filled");
    await user.click(settle);
    await waitFor(() => expect(screen.queryByText("Settle")).toBeNull());
    const put = asked.find((one) => one.method === "PUT")!.body;
    expect(put).toEqual({ values: { near_gap: 0.2, voids: "fill" } });
  });

  it("let others read the policy", async () => {
    serve({ ...routes, ...shop });
    const { user } = show(<MaterialsScreen person={{ ...lead, lead: false }} />, "/materials");
    await screen.findByLabelText("Wall, free");
    await user.click(screen.getByText("Limits and policy…"));
    expect((await screen.findByLabelText<HTMLInputElement>(/Near gap/)).readOnly).toBe(true);
    expect(screen.queryByText("Settle")).toBeNull();
  });

  it("stand beside the machines, which the lead adds", async () => {
    const asked = serve(routes);
    const { user } = show(<MaterialsScreen person={lead} />, "/materials");
    await user.click(await screen.findByText("Add a machine"));
    await user.type(screen.getByLabelText("Name of the machine"), "Kiln");
    for (const [side, mm] of [
      ["x", "100"],
      ["y", "110"],
      ["z", "120"],
    ]) {
      await user.type(screen.getByLabelText(`Build volume, ${side}, mm`), mm!);
    }
    await user.click(screen.getByText("Add"));
    await waitFor(() =>
      expect(asked.some((one) => one.path === "/api/machines" && one.method === "POST")).toBe(true),
    );
    const body = asked.find((one) => one.path === "/api/machines" && one.method === "POST")!.body;
    expect(body).toEqual({ name: "Kiln", process: "Sintering", x: 100, y: 110, z: 120 });
  });
});
