// @vitest-environment jsdom
import { act, cleanup, fireEvent, render, screen } from "@testing-library/react";
import { afterEach, expect, it, vi } from "vitest";
import { useHeldKey, useKeys } from "./keys";

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
});

function Light() {
  return (
    <>
      <p>{useHeldKey("q") ? "on" : "off"}</p>
      <input aria-label="Reason" />
    </>
  );
}

it("knows a key as held until it, or the window, is let go", () => {
  render(<Light />);
  const holds = (what: string) => expect(screen.getByText(what)).toBeTruthy();
  holds("off");
  fireEvent.keyDown(window, { key: "Q" });
  holds("on");
  fireEvent.keyUp(window, { key: "x" });
  holds("on");
  fireEvent.keyUp(window, { key: "q" });
  holds("off");
  fireEvent.keyDown(window, { key: "q" });
  act(() => void window.dispatchEvent(new Event("blur")));
  holds("off");
  fireEvent.keyDown(screen.getByLabelText("Reason"), { key: "q" });
  holds("off");
  fireEvent.keyDown(window, { key: "q", ctrlKey: true });
  holds("off");
});

function Desk({ writing, act }: { writing: boolean; act: () => void }) {
  useKeys({ d: act });
  return writing ? <input aria-label="Reason" /> : <p>gone</p>;
}

it("rests while somebody goes on writing though the field went away", () => {
  const act = vi.fn();
  const clock = vi.spyOn(Event.prototype, "timeStamp", "get");
  const press = (target: Element | Window, key: string, at: number) => {
    clock.mockReturnValue(at);
    fireEvent.keyDown(target, { key });
  };
  const { rerender } = render(<Desk writing act={act} />);
  press(screen.getByLabelText("Reason"), "a", 1000);
  rerender(<Desk writing={false} act={act} />);
  // the rest of the words, a second apart
  press(window, "d", 2000);
  press(window, "d", 3000);
  expect(act).not.toHaveBeenCalled();
  press(window, "d", 6000);
  expect(act).toHaveBeenCalledTimes(1);
});

it("acts at once after a field was left on purpose", () => {
  const act = vi.fn();
  const { rerender } = render(<Desk writing act={act} />);
  fireEvent.keyDown(screen.getByLabelText("Reason"), { key: "a" });
  fireEvent.keyDown(screen.getByLabelText("Reason"), { key: "Enter" });
  rerender(<Desk writing={false} act={act} />);
  fireEvent.keyDown(window, { key: "d" });
  expect(act).toHaveBeenCalledTimes(1);
});
