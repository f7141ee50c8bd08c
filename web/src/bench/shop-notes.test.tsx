// @vitest-environment jsdom
import { screen, waitFor } from "@testing-library/react";
import { describe, expect, it, vi } from "vitest";
import { serve, show } from "../tests/dom";
import { full, item, person } from "../tests/makers";
import { RemoveOrder } from "../orders/remove-order";
import { WorkingPerson } from "../session/person";
import { ShopNotes } from "./shop-notes";

const lead = person({ username: "odd", name: "Odd Lervik", lead: true });
const account = { id: 1, first_name: "", last_name: "", active: true };
const everybody = [
  { ...account, username: "maren", name: "Maren Aas", role: "technician" },
  { ...account, username: "odd", name: "Odd Lervik", role: "lead" },
  { ...account, username: "una", name: "Una Holm", role: "read-only" },
  { ...account, username: "leif", name: "Leif Moe", role: "technician", active: false },
];

describe("what the shop tells itself of an item", () => {
  const one = full({
    ...item({ assignee: "odd", assignee_name: "Odd Lervik" }),
    comments: [{ id: 1, text: "asked twice", by: "Maren Aas", at: "2026-11-25T09:00:00Z" }],
  });
  const notes = (
    <WorkingPerson value={lead}>
      <ShopNotes item={one} />
    </WorkingPerson>
  );
  const served = {
    "GET /api/accounts": everybody,
    "POST /api/items/1/assignee": {},
    "POST /api/items/1/comments": {},
  };

  it("who has it, and what was written", async () => {
    const asked = serve(served);
    const { user } = show(notes);
    expect(screen.getByText("asked twice")).toBeTruthy();
    const choice = await screen.findByLabelText("Looked after by");
    // who may only look, or not come in any more, is given nothing
    await waitFor(() =>
      expect([...choice.querySelectorAll("option")].map((o) => o.textContent)).toEqual([
        "Nobody",
        "Maren Aas",
        "Odd Lervik",
      ]),
    );
    await user.selectOptions(choice, "maren");
    await user.type(screen.getByLabelText("A comment for the others"), "called them");
    await user.click(screen.getByText("Add"));
    await waitFor(() => expect(asked.filter((a) => a.method === "POST")).toHaveLength(2));
    const sent = asked.filter((a) => a.method === "POST").map((a) => a.body);
    expect(sent).toEqual([{ assignee: "maren" }, { text: "called them" }]);
  });

  it("the order's note is changed beside what was seen", async () => {
    const asked = serve({
      ...served,
      "PATCH /api/orders/1": () => [409, { detail: "Somebody changed the note meanwhile." }],
    });
    const { user } = show(notes);
    await user.click(await screen.findByText("Edit"));
    await user.type(screen.getByLabelText("Note of the order"), "by boat");
    await user.click(screen.getByText("Keep"));
    expect((await screen.findByRole("alert")).textContent).toContain("meanwhile");
    const sent = asked.find((a) => a.method === "PATCH")!.body as Record<string, string>;
    expect([sent.note, sent.note_seen, sent.due_seen]).toEqual(["by boat", "", one.order.due]);
    // what was written stays
    expect(screen.getByLabelText<HTMLTextAreaElement>("Note of the order").value).toBe("by boat");
  });

  it("the lead removes for a reason", async () => {
    const asked = serve({
      "POST /api/customers/1/remove": () => [409, { detail: "Order 0418 is kept until later." }],
    });
    const { user } = show(<RemoveOrder order={one.order} onClose={vi.fn()} />);
    await user.click(screen.getByLabelText(/Everything that Oakum Yard/));
    await user.type(screen.getByLabelText("Why"), "they asked{Enter}");
    expect((await screen.findByRole("alert")).textContent).toContain("kept until");
    expect(asked[0]!.body).toEqual({ reason: "they asked" });
  });
});
