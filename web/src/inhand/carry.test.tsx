// @vitest-environment jsdom
import { screen } from "@testing-library/react";
import * as THREE from "three";
import { MeshBVH } from "three-mesh-bvh";
import { beforeEach, describe, expect, it, vi } from "vitest";
import { show } from "../tests/dom";
import type { PointerAt } from "../viewer/picking";
import { ALL_SHOWN } from "../viewer/shells";
import { skinOf } from "../viewer/skin";
import { carrying, meantBy, shellsWithin, stepOf } from "./carry";
import { CarryBar } from "./carry-bar";
import type { Ground } from "./ground";
import { useHand } from "./hand";

/** Two squares that look up, 10 wide: the first at the middle of the view, the second beside it. */
const skin = skinOf({
  positions: new Float32Array(
    [0, 20].flatMap((x) => [x - 5, -5, 0, x + 5, -5, 0, x + 5, 5, 0, x - 5, 5, 0]),
  ),
  corners: new Uint32Array([0, 1, 2, 0, 2, 3, 4, 5, 6, 4, 6, 7]),
  starts: new Uint32Array([0, 2, 4]),
  coarse: null,
  middle: [100, 0, 0],
  low: [-5, -5, 0],
  high: [25, 5, 0],
});
const tree = new MeshBVH(skin.geometry);
const ground = { skin, sight: ALL_SHOWN } as unknown as Ground;

/** From 100 mm above, 100 pixels for 100 mm. */
function pointer(x: number, y: number): PointerAt {
  const camera = new THREE.OrthographicCamera(-50, 50, 50, -50, 1, 200);
  camera.position.set(0, 0, 100);
  camera.lookAt(0, 0, 0);
  camera.updateMatrixWorld();
  const size = { width: 100, height: 100 };
  return { x, y, ndc: [x / 50 - 1, 1 - y / 50], camera, size, tree, hitAt: () => null };
}

const carry = () => useHand.getState().carry!;

beforeEach(() => useHand.getState().take("turn"));

describe("pieces in hand", () => {
  it("go with all that lies in them", () => {
    const pieces = [
      { shell: 0, within: -1 },
      { shell: 1, within: 0 },
      { shell: 2, within: 1 },
      { shell: 3, within: -1 },
    ];
    expect([...shellsWithin(pieces, new Set([0]))]).toEqual([0, 1, 2]);
    expect([...shellsWithin(pieces, new Set([1]))]).toEqual([1, 2]);
    expect([...shellsWithin(pieces, new Set([3]))]).toEqual([3]);
  });

  it("follow the pointer where they are taken, and nothing else does", () => {
    useHand.getState().carryPieces([1], new Set([0]));
    const press = (x: number, y: number) =>
      carrying.press!(null, pointer(x, y), ground, new PointerEvent("pointerdown"));
    expect(press(70, 50)).toBe(false);
    expect(press(48, 50)).toBe(true);
    carrying.drag!(null, pointer(60, 40), ground);
    expect(carry().by).toEqual([12, 10, 0]);
    carrying.release!(pointer(60, 40), ground);
    carrying.drag!(null, pointer(90, 90), ground);
    expect(carry().by).toEqual([12, 10, 0]);
    // where it was there is nothing any more; where it is now it is taken again
    expect(press(48, 50)).toBe(false);
    useHand.getState().setCarry({ way: "x" });
    expect(press(60, 40)).toBe(true);
    carrying.drag!(null, pointer(63, 20), ground);
    expect(carry().by).toEqual([15, 10, 0]);
    carrying.release!(pointer(63, 20), ground);
  });

  it("stay where they are on a way that points at the one who looks", () => {
    const down = new THREE.Ray(new THREE.Vector3(0, 0, 10), new THREE.Vector3(0, 0, -1));
    const from = new THREE.Vector3(1, 2, 3);
    const away = new THREE.Vector3(0, 1, 0);
    expect(meantBy(down, from, "z", away)).toBeNull();
    expect(meantBy(down, from, "y", away)!.toArray()).toEqual([1, 0, 3]);
    expect(meantBy(down, from, "level", away)!.toArray()).toEqual([0, 0, 3]);
    const flat = new THREE.Ray(new THREE.Vector3(0, -9, 5), new THREE.Vector3(0, 1, 0));
    expect(meantBy(flat, from, "level", away)).toBeNull();
    expect(meantBy(flat, from, "z", away)!.toArray()).toEqual([1, 2, 5]);
  });

  it.each([
    [3, 0.1],
    [0.5, 1],
    [40, 0.01],
  ])("go by round steps: at %f pixels a millimetre by %f mm", (pixels, step) => {
    expect(stepOf(pixels)).toBeCloseTo(step, 9);
  });

  it("are let go by another tool, another revision and another item", () => {
    for (const leave of [
      () => useHand.getState().take("rule"),
      () => useHand.getState().lookAt(2),
      () => useHand.getState().leave(4),
    ]) {
      useHand.getState().carryPieces([1], new Set([0]));
      expect(useHand.getState().tool).toBe("carry");
      leave();
      expect(useHand.getState().carry).toBeNull();
      expect(useHand.getState().tool).not.toBe("carry");
    }
    useHand.getState().comeTo(4);
    expect(useHand.getState().tool).toBe("turn");
  });
});

describe("the bar of what is in hand", () => {
  it("takes typed steps, and moves nothing by none", async () => {
    useHand.getState().carryPieces([4, 7], new Set([0]));
    const onMove = vi.fn();
    const { user } = show(<CarryBar onMove={onMove} />);
    expect(screen.getByText("Move piece 4, 7")).toBeTruthy();
    const go = screen.getByRole<HTMLButtonElement>("button", { name: "Move" });
    expect(go.disabled).toBe(true);
    const along = screen.getByLabelText("By, y, mm");
    await user.clear(along);
    await user.type(along, "12.5{Enter}");
    expect(onMove).toHaveBeenCalledWith([4, 7], [0, 12.5, 0]);
    await user.click(screen.getByText("Do not move"));
    expect(useHand.getState().carry).toBeNull();
  });
});
