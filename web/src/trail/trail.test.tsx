// @vitest-environment jsdom
import { screen } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import { full, person } from "../tests/makers";
import { serve, show } from "../tests/dom";
import { ItemTrail } from "./item-trail";
import TrailScreen from "./screen";

const entry = (text: string, at: string, by = "Odd Ness", item: number | null = 3) => ({
  ...{ text, at, by, item },
  what: "decision",
});

describe("the trail", () => {
  it("of an item tells who did what, and is taken away as a table", async () => {
    const told = [
      entry("1 void accepted: “to float”", "2026-11-25T10:00:00Z"),
      entry("kept, as the shop has settled", "2026-11-25T09:00:00Z", ""),
    ];
    serve({ "GET /api/items/1/trail": told });
    show(<ItemTrail item={full()} onClose={() => undefined} />);
    await screen.findByText(/to float/);
    const lines = screen.getAllByRole("listitem").map((one) => one.textContent);
    expect(lines[0]).toContain("Odd Ness1 void accepted");
    expect(lines[1]).toContain("the shopkept");
    expect(screen.getByText(/as a table/).getAttribute("href")).toBe("/api/items/1/trail/file");
  });

  it("of the shop goes back a page at a time, and leads to the bench", async () => {
    const pages: Record<string, object[]> = {
      "": [entry("second", "2026-11-25T10:00:00Z")],
      "2026-11-25T10:00:00Z": [entry("first", "2026-11-25T08:00:00Z", "", null)],
      "2026-11-25T08:00:00Z": [],
    };
    const jobs = { "GET /api/jobs": [] };
    serve({
      ...jobs,
      "GET /api/trail": ({ query }) => pages[query.get("before") ?? ""] ?? [],
    });
    const lead = person({ username: "odd", name: "Odd Ness", lead: true });
    const { user } = show(<TrailScreen person={lead} />);
    await screen.findByText("second");
    expect(screen.getByText("its bench").getAttribute("href")).toBe("/items/3");
    await user.click(screen.getByText("Earlier"));
    await screen.findByText("first");
    expect(screen.getAllByText("its bench")).toHaveLength(1);
  });

  it("says when it is not to be read", async () => {
    serve({
      "GET /api/jobs": [],
      "GET /api/trail": () => [
        403,
        { detail: "Only the shop's lead reads the trail of the shop." },
      ],
    });
    show(<TrailScreen person={person()} />);
    await screen.findByText(/Only the shop's lead/);
  });
});
