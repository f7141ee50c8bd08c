// @vitest-environment jsdom
import { screen } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import type { Job } from "../api/client";
import { serve, show } from "../tests/dom";
import { full, job } from "../tests/makers";
import { useShown } from "./use-shown";
import { useWork } from "./use-work";
import { Unreadable } from "./unreadable";

function Panel({
  state,
  problem,
  aside,
  kind = "receive",
}: {
  state: Job["state"];
  problem: string;
  aside: boolean;
  kind?: Job["kind"];
}) {
  const item = full({
    problem,
    current: null,
    set_aside: aside,
    job: job(state, { kind, message: problem }),
  });
  return <Unreadable item={item} work={useWork(item, useShown(item))} />;
}

const letter = () => screen.getByLabelText<HTMLTextAreaElement>("Letter").value;
const again = () => screen.queryByRole("button", { name: "Read it again" });

describe("a file that was not read", () => {
  it.each(["failed", "cancelled"] as const)("is read once more where work %s", async (state) => {
    const asked = serve({
      "GET /api/operations": [],
      "GET /api/materials": [],
      "POST /api/items/1/read": job("waiting", { kind: "receive" }),
    });
    const { user } = show(<Panel state={state} problem="The work stopped." aside={false} />);
    expect(screen.getByText("This file was not read.")).toBeTruthy();
    expect(letter()).toBe("");
    await user.click(again()!);
    expect(asked.map((one) => one.path)).toContain("/api/items/1/read");
  });

  it("is made once more where it is made of another item", () => {
    serve({ "GET /api/operations": [], "GET /api/materials": [] });
    show(<Panel state="failed" problem="The work stopped." aside={false} kind="derive" />);
    expect(screen.getByText("This item was not made.")).toBeTruthy();
    expect(screen.getByRole("button", { name: "Make it again" })).toBeTruthy();
  });

  it("is for the customer to send again where the file is refused", () => {
    serve({ "GET /api/operations": [], "GET /api/materials": [] });
    show(<Panel state="refused" problem="It holds no faces." aside={false} />);
    expect(screen.getByText("This file cannot be read.")).toBeTruthy();
    expect(letter()).toContain("It holds no faces.");
    expect(again()).toBeNull();
  });

  it("is left alone while it is set aside", () => {
    serve({ "GET /api/operations": [], "GET /api/materials": [] });
    show(<Panel state="failed" problem="The work stopped." aside={true} />);
    expect(again()).toBeNull();
  });
});
