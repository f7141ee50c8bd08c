// @vitest-environment jsdom
import { fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { serve, show } from "../tests/dom";
import type { PersonAccount } from "../api/client";
import { ShopNotes } from "../bench/shop-notes";
import { RemoveOrder } from "../orders/remove-order";
import { LogInAgain } from "../session/again";
import { ChangePassword } from "../session/change-password";
import { WorkingPerson } from "../session/person";
import { ConnectionBanner } from "../session/connection-banner";
import { useConnection } from "../api/connection";
import { full, item, job, person } from "../tests/makers";
import { Announcer } from "../ui/announcer";
import { switchKeys, useKeys } from "../ui/keys";
import { Whole } from "../ui/whole";
import { useTitle } from "../ui/title";
import PeopleScreen from "./screen";

const account = (part: Partial<PersonAccount> = {}): PersonAccount => ({
  id: 1,
  username: "maren",
  first_name: "Maren",
  last_name: "Aas",
  name: "Maren Aas",
  role: "technician",
  active: true,
  ...part,
});
const everybody = [
  account(),
  account({ id: 2, username: "odd", name: "Odd Lervik", role: "lead" }),
  account({ id: 3, username: "una", name: "Una Holm", role: "read-only" }),
  account({ id: 4, username: "leif", name: "Leif Moe", active: false }),
];
const lead = person({ username: "odd", name: "Odd Lervik", lead: true });
const routes = { "GET /api/jobs": [], "GET /api/accounts": everybody };

describe("the people of the shop", () => {
  it("stand with their role and what they may do", async () => {
    serve(routes);
    show(<PeopleScreen person={lead} />);
    await screen.findByText("Una Holm");
    expect(screen.getByText("looks at everything and changes nothing")).toBeTruthy();
    expect(screen.getByText("may not log in any more")).toBeTruthy();
  });

  it("a new one is made by key, and a refusal is told", async () => {
    let tries = 0;
    const asked = serve({
      ...routes,
      "POST /api/accounts": () => (tries++ ? account() : [400, { detail: "Too common." }]),
    });
    const { user } = show(<PeopleScreen person={lead} />);
    await screen.findByText("Una Holm");
    await user.keyboard("n");
    await user.type(await screen.findByLabelText("First name"), "Siri");
    await user.type(screen.getByLabelText("Login name"), "siri");
    await user.click(screen.getByLabelText(/Read-only/));
    await user.type(screen.getByLabelText(/Password/), "password1234{Enter}");
    expect((await screen.findByRole("alert")).textContent).toBe("Too common.");
    await user.click(screen.getByText("Make the account"));
    await waitFor(() => expect(screen.queryByRole("dialog")).toBeNull());
    expect(asked.filter((one) => one.method === "POST")[1]!.body).toEqual({
      first_name: "Siri",
      last_name: "",
      role: "read-only",
      username: "siri",
      password: "password1234",
    });
  });

  it("one is changed; a password that is not written stays", async () => {
    const asked = serve({ ...routes, "PATCH /api/accounts/1": account() });
    const { user } = show(<PeopleScreen person={lead} />);
    await user.click(await screen.findByLabelText("Change Maren Aas"));
    await user.click(screen.getByLabelText("May log in"));
    await user.click(screen.getByText("Keep"));
    await waitFor(() => expect(screen.queryByRole("dialog")).toBeNull());
    expect(asked.find((one) => one.method === "PATCH")!.body).toEqual({
      first_name: "Maren",
      last_name: "Aas",
      role: "technician",
      active: false,
    });
  });

  it("others only look", async () => {
    serve(routes);
    show(<PeopleScreen person={person()} />);
    await screen.findByText("Una Holm");
    expect(screen.queryByText("New account")).toBeNull();
    expect(screen.queryByText("Change…")).toBeNull();
  });
});

describe("one's own password", () => {
  it("is written twice the same, or not changed", async () => {
    const asked = serve({ "POST /api/session/password": {} });
    const { user } = show(<ChangePassword onClose={vi.fn()} />);
    await user.type(screen.getByLabelText("The password so far"), "old");
    await user.type(screen.getByLabelText(/at least 12/), "bobstay-and-boom");
    await user.type(screen.getByLabelText("The new one once more"), "bobstay{Enter}");
    expect(screen.getByRole("alert").textContent).toContain("same way twice");
    expect(asked).toEqual([]);
    await user.type(screen.getByLabelText("The new one once more"), "-and-boom{Enter}");
    expect(await screen.findByRole("status")).toBeTruthy();
    expect(asked[0]!.body).toEqual({ old: "old", new: "bobstay-and-boom" });
  });
});

describe("a session that has ended", () => {
  it("goes on with the same person", async () => {
    serve({ "POST /api/session": { person: person() } });
    const { user, queries } = show(<LogInAgain person={person()} />);
    await user.type(screen.getByLabelText("Password"), "tallow-and-oakum{Enter}");
    await waitFor(() => expect(queries.getQueryData(["session"])).toEqual({ person: person() }));
  });
  it("stays closed for a wrong password", async () => {
    serve({ "POST /api/session": () => [403, { detail: "Not these." }] });
    const { user } = show(<LogInAgain person={person()} />);
    await user.type(screen.getByLabelText("Password"), "no{Enter}");
    expect((await screen.findByRole("alert")).textContent).toBe("Not these.");
  });
});

describe("a server that is lost", () => {
  afterEach(() => useConnection.setState({ reached: true }));
  it("is a line over the screen", () => {
    show(<ConnectionBanner />);
    expect(screen.queryByText(/cannot be reached/)).toBeNull();
    useConnection.setState({ reached: false });
    show(<ConnectionBanner />);
    expect(screen.getAllByText(/cannot be reached/).length).toBeGreaterThan(0);
  });
});

describe("a screen that falls", () => {
  it("says so in its place, and can be tried again", async () => {
    const told = vi.spyOn(console, "error").mockImplementation(() => undefined);
    let broken = true;
    function Screen() {
      if (broken) throw new Error("a rib is missing");
      return <p>whole again</p>;
    }
    const { user } = show(
      <Whole>
        <Screen />
      </Whole>,
    );
    expect(screen.getByText("This screen stopped on a fault of ours.")).toBeTruthy();
    expect(screen.getByText("a rib is missing")).toBeTruthy();
    broken = false;
    await user.click(screen.getByText("Try it again"));
    expect(screen.getByText("whole again")).toBeTruthy();
    told.mockRestore();
  });
});

describe("work that ends", () => {
  const begun = (seconds: number) => new Date(Date.now() - seconds * 1000).toISOString();
  it.each([
    [60, "Lantern: work has ended."],
    [1, ""],
  ])("that took %s s is announced as %o", async (seconds, words) => {
    let jobs = [job("running", { item_name: "Lantern", created: begun(seconds) })];
    serve({ "GET /api/jobs": () => jobs });
    const { queries } = show(<Announcer />);
    await waitFor(() => expect(queries.getQueryData(["jobs"])).toHaveLength(1));
    jobs = [];
    await queries.invalidateQueries({ queryKey: ["jobs"] });
    await waitFor(() => expect(queries.getQueryData(["jobs"])).toHaveLength(0));
    await waitFor(() =>
      expect(document.querySelector("[aria-live=polite]")!.textContent).toBe(words),
    );
  });
});

describe("keys of a single letter", () => {
  const act = vi.fn<(how?: string) => void>();
  function Keyed() {
    useKeys({
      m: () => act(),
      escape: () => act(),
      "shift+arrowdown": () => act("more"),
      arrowdown: () => act("one"),
    });
    useTitle("Lantern", undefined, "0418");
    return null;
  }
  beforeEach(() => act.mockReset());
  afterEach(() => switchKeys(false));

  it("can be switched off; others stay", () => {
    show(<Keyed />);
    fireEvent.keyDown(window, { key: "m" });
    switchKeys(true);
    fireEvent.keyDown(window, { key: "m" });
    expect(act).toHaveBeenCalledTimes(1);
    fireEvent.keyDown(window, { key: "Escape" });
    expect(act).toHaveBeenCalledTimes(2);
  });
  it("tell with shift from without", () => {
    show(<Keyed />);
    fireEvent.keyDown(window, { key: "ArrowDown", shiftKey: true });
    fireEvent.keyDown(window, { key: "ArrowDown" });
    expect(act.mock.calls).toEqual([["more"], ["one"]]);
    expect(document.title).toBe("Lantern · 0418 · Ironcaulk");
  });
});

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
    ...routes,
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
