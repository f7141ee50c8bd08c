// @vitest-environment jsdom
import { renderHook } from "@testing-library/react";
import { afterEach, beforeEach, expect, it, vi } from "vitest";
import { DWELL, useDwell } from "./dwell";

beforeEach(() => void vi.useFakeTimers());
afterEach(() => void vi.useRealTimers());

it("tells what is pointed at for a while, and nothing that is only passed over", () => {
  const told = vi.fn();
  const { result, unmount } = renderHook(() => useDwell<number>(told));
  result.current(1);
  vi.advanceTimersByTime(DWELL - 1);
  result.current(2);
  vi.advanceTimersByTime(DWELL - 1);
  expect(told).not.toHaveBeenCalled();
  vi.advanceTimersByTime(1);
  expect(told.mock.calls).toEqual([[2]]);
  result.current(3);
  result.current(null);
  vi.advanceTimersByTime(DWELL);
  result.current(4);
  unmount();
  vi.advanceTimersByTime(DWELL);
  expect(told.mock.calls).toEqual([[2]]);
});
