/** One moment for all tests, whatever the clock of the machine says: 25 November 2026, 09:30. */

import { beforeEach, vi } from "vitest";

beforeEach(() => {
  vi.useFakeTimers({ toFake: ["Date"], now: new Date(2026, 10, 25, 9, 30) });
});
