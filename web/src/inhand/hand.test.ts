import { beforeEach, describe, expect, it } from "vitest";
import { useHand } from "./hand";

const hand = () => useHand.getState();

describe("what is in hand", () => {
  beforeEach(() => hand().comeTo(-1));

  it("is found again with the item that it was left at", () => {
    hand().comeTo(7);
    hand().lookAt(70);
    hand().take("choose");
    hand().setChoose({ by: "lasso", radius: 2 });
    hand().setChoice(new Uint8Array([1, 0, 1]), 70);
    hand().leave(7);
    expect(hand().tool).toBe("turn");
    expect(hand().choice).toBeNull();
    // another item begins with nothing in hand
    hand().comeTo(8);
    expect(hand().tool).toBe("turn");
    expect(hand().choose.radius).toBeNull();
    hand().leave(8);
    hand().comeTo(7);
    hand().lookAt(70);
    expect(hand().tool).toBe("choose");
    expect(hand().choose).toMatchObject({ by: "lasso", radius: 2 });
    expect([...hand().choice!.faces]).toEqual([1, 0, 1]);
    expect(hand().choice!.revision).toBe(70);
  });

  it("is remembered of a dozen items, the latest", () => {
    for (let item = 100; item < 120; item++) {
      hand().comeTo(item);
      hand().take("rule");
      hand().leave(item);
    }
    hand().comeTo(100);
    expect(hand().tool).toBe("turn");
    hand().comeTo(119);
    expect(hand().tool).toBe("rule");
  });

  it("belongs to the revision: what was chosen on it is chosen again, the tool stays", () => {
    hand().comeTo(30);
    hand().lookAt(301);
    hand().take("choose");
    hand().setChoice(new Uint8Array([1, 1]), 301);
    hand().setChoice(new Uint8Array([0, 1]), 301);
    hand().lookAt(302);
    expect(hand().tool).toBe("choose");
    expect(hand().choice).toBeNull();
    hand().take("rule");
    hand().lookAt(301);
    expect(hand().tool).toBe("rule");
    expect([...hand().choice!.faces]).toEqual([0, 1]);
    hand().undo();
    expect([...hand().choice!.faces]).toEqual([1, 1]);
    // opened again at either, with what each was left with
    hand().take("choose");
    hand().leave(30);
    hand().comeTo(30);
    hand().lookAt(302);
    expect(hand().tool).toBe("rule");
    hand().leave(30);
    hand().comeTo(30);
    hand().lookAt(301);
    expect(hand().tool).toBe("choose");
    expect([...hand().choice!.faces]).toEqual([1, 1]);
    // one that is new goes on with what was in hand
    hand().leave(30);
    hand().comeTo(30);
    hand().lookAt(303);
    expect(hand().tool).toBe("choose");
    expect(hand().choice).toBeNull();
  });
});
