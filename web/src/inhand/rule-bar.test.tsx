// @vitest-environment jsdom
import { screen } from "@testing-library/react";
import * as THREE from "three";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { show } from "../tests/dom";
import type { Pick } from "../viewer/picks";
import { useHand } from "./hand";
import { RuleBar } from "./rule-bar";
import type { HandInView } from "./use-in-hand";

const pick = (shell: number, normal: [number, number, number]): Pick => ({
  at: new THREE.Vector3(shell, 0, 0),
  to: "face",
  face: 4,
  shell,
  normal: new THREE.Vector3(...normal),
  along: null,
  round: null,
});
const kept = { kept: [], keep: {}, name: {}, letGo: {} } as never;

function ruled(picks: Pick[], onLay: ((first: Pick, second: Pick) => void) | null) {
  useHand.getState().setRule({ kind: "distance", picks });
  const hand = { ground: { nameOf: (shell: number) => `piece ${shell + 1}` }, found: null };
  return show(
    <RuleBar
      hand={hand as unknown as HandInView}
      kept={kept}
      onScale={null}
      mayKeep={false}
      onLay={onLay}
    />,
  );
}

describe("two picks on different pieces", () => {
  beforeEach(() => useHand.getState().comeTo(-1));
  const [first, second] = [pick(0, [0, 0, 1]), pick(2, [1, 0, 0])];

  it("lay the first against the second", async () => {
    const onLay = vi.fn();
    const { user } = ruled([first, second], onLay);
    await user.click(screen.getByText("Lay face to face"));
    expect(onLay).toHaveBeenCalledWith(first, second);
  });

  it.each([
    ["on one piece", [first, pick(0, [0, 1, 0])], vi.fn()],
    ["with one pick", [first], vi.fn()],
    ["where nothing can be run", [first, second], null],
  ])("are not offered that %s", (_, picks, onLay) => {
    ruled(picks, onLay);
    expect(screen.queryByText(/^Lay/)).toBeNull();
  });
});
