import { describe, expect, it } from "vitest";
import {
  bytes,
  cm2,
  cm3,
  count,
  due,
  length,
  plural,
  seconds,
  shortfall,
  signed,
  sizeOf,
  volume,
} from "./format";

describe("numbers", () => {
  it.each([
    [count(1402884), "1,402,884"],
    [sizeOf([53, 51.25, 1066.6]), "53.0 × 51.3 × 1,066.6 mm"],
    [cm3(28312.4), "28.31 cm³"],
    [volume(28312.4), "28.31 cm³"],
    [volume(9.994), "9.99 mm³"],
    [volume(-12), "-0.01 cm³"],
    [volume(-2), "-2.00 mm³"],
    [cm2(17020), "170.2 cm²"],
    [length(0), "0.0 mm"],
    [length(6.24), "6.2 mm"],
    [length(0.1), "0.1 mm"],
    [length(0.0042), "0.004 mm"],
    [length(0.00001), "under 0.001 mm"],
    [shortfall(0.42, 0.6).found, "0.42"],
    [shortfall(2.9984, 3).found, "2.998"],
    [shortfall(2.99999, 3).found, "just under 3.00"],
    [shortfall(3.001, 3).found, "3.00"],
    [bytes(0), "0 bytes"],
    [bytes(1234), "1 kB"],
    [bytes(10_719_084), "10.7 MB"],
    [seconds(999), "0 s"],
    [seconds(59_900), "59 s"],
    [seconds(61_000), "1 min 1 s"],
    [seconds(-5), "0 s"],
    [signed(57, count), "+57"],
    [signed(-1234, count), "−1,234"],
    [signed(-0.4, cm2), "±0.0 cm²"],
    [plural(1, "hole"), "1 hole"],
    [plural(0, "hole"), "0 holes"],
    [plural(2, "vertex", "vertices"), "2 vertices"],
  ])("%s", (written, expected) => expect(written).toBe(expected));
});

describe("due dates", () => {
  const now = new Date(2026, 10, 25, 9, 30);
  it.each([
    [new Date(2026, 10, 25, 16, 0), "today 16:00", false],
    [new Date(2026, 10, 25, 8, 0), "today 08:00", true],
    [new Date(2026, 10, 26, 0, 30), "tomorrow", false],
    [new Date(2026, 10, 24, 12, 0), "24 Nov", true],
    [new Date(2026, 11, 24, 12, 0), "24 Dec", false],
  ])("%s", (at, text, late) => expect(due(at.toISOString(), now)).toEqual({ text, late }));

  it("within the week name the day", () => {
    expect(due(new Date(2026, 10, 28, 12).toISOString(), now).text).toMatch(/Sat.*28/);
  });
});
