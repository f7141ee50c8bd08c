// @vitest-environment jsdom
import { screen, within } from "@testing-library/react";
import { describe, expect, it, vi } from "vitest";
import { serve, show } from "../tests/dom";
import { BringIn } from "./bring-in";

const order = { id: 3, number: "0431" } as never;
const line = (id: number, current: number | null, name: string) => ({
  ...{ id, current, name, triangles: 12 },
});

describe("other models of the order", () => {
  it("are taken one by one or all at once; what has not been read is not offered", async () => {
    serve({
      "GET /api/items": {
        count: 4,
        results: [
          line(1, 10, "Housing"),
          line(2, 20, "Peg"),
          line(4, 40, "Lid"),
          line(5, null, "Unread"),
        ],
      },
    });
    const onRun = vi.fn();
    const { user } = show(<BringIn item={{ id: 1, order }} onRun={onRun} />);
    await user.click(screen.getByText("Bring other models in…"));
    const sheet = within(await screen.findByRole("dialog"));
    await sheet.findByText("Peg");
    expect(sheet.queryByText("Unread")).toBeNull();
    expect(sheet.queryByText("Housing")).toBeNull();
    await user.click(sheet.getByLabelText("All 2 models"));
    expect(sheet.getByRole("status").textContent).toContain("2 models taken.");
    await user.click(sheet.getByLabelText("All 2 models"));
    expect(sheet.getByRole("status").textContent).toContain("Take one or more.");
    await user.click(sheet.getByLabelText("All 2 models"));
    await user.click(sheet.getByText("Bring in as pieces"));
    expect(onRun).toHaveBeenCalledWith("join-files", [20, 40]);
  });
});
