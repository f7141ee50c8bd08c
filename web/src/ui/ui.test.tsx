// @vitest-environment jsdom
import { fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { serve, show } from "../tests/dom";
import { job } from "../tests/makers";
import { Announcer } from "./announcer";
import { remaining } from "./progress";
import { switchKeys, useKeys } from "./keys";
import { useTitle } from "./title";
import { Whole } from "./whole";

describe("what remains of long work", () => {
  const seen = [
    { at: 0, fraction: 0 },
    { at: 2_000, fraction: 0.5 },
    { at: 12_000, fraction: 0.7 },
  ];

  it.each([
    [[], 5_000, null],
    [seen.slice(0, 1), 5_000, null],
    // too soon to tell
    [seen.slice(0, 2), 1_000, null],
    [seen.slice(0, 2), 2_000, 2_000],
    // the quick beginning counts no more
    [seen, 12_000, 15_000],
    // it stands still: longer and longer
    [seen, 22_000, null],
  ])("case %#", (steps, now, left) => {
    const told = remaining(steps, now);
    if (left === null) expect(told).toBeNull();
    else expect(told).toBeCloseTo(left, 6);
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
