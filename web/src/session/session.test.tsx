// @vitest-environment jsdom
import { screen, waitFor } from "@testing-library/react";
import { afterEach, describe, expect, it, vi } from "vitest";
import { serve, show } from "../tests/dom";
import { useConnection } from "../api/connection";
import { person } from "../tests/makers";
import { LogInAgain } from "./again";
import { ChangePassword } from "./change-password";
import { ConnectionBanner } from "./connection-banner";

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
