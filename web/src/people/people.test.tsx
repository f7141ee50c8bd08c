// @vitest-environment jsdom
import { screen, waitFor } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import type { PersonAccount } from "../api/client";
import { serve, show } from "../tests/dom";
import { person } from "../tests/makers";
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
    await user.keyboard("+");
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
