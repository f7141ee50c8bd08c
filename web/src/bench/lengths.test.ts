import { describe, expect, it } from "vitest";
import { lengthsIn } from "./lengths";

describe("lengths that a customer wrote", () => {
  it.each([
    ["six inches from horn to horn", [152.4]],
    ["Horn cleat, 6 in", [152.4]],
    ['about 2.5" wide and 40 mm deep', [63.5, 40]],
    ["12,5 cm, please", [125]],
    ["It should be 1 m long; one metre, as I said.", [1000]],
    ["a 3-inch handle and a 3 inch knob", [76.2]],
    ["2 ft", [609.6]],
    ["put 4 inside the box", []],
    ["part 5 mmm", []],
    ["no size at all, order 0418", []],
    ["v1.2 in red", []],
    ["", []],
  ])("%s", (text, mm) => {
    expect(lengthsIn(text).map((one) => one.mm)).toEqual(mm);
  });

  it("are told as they stand there", () => {
    expect(lengthsIn("Make it six inches long")[0]!.words).toBe("six inches");
  });
});
