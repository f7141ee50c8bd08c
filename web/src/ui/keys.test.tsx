// @vitest-environment jsdom
import { act, fireEvent, render, screen } from "@testing-library/react";
import { expect, it } from "vitest";
import { useHeldKey } from "./keys";

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
