// @vitest-environment jsdom
import * as THREE from "three";
import { beforeEach, describe, expect, it } from "vitest";
import { forgetStands, keepStand, standOf } from "./stands";

const at = (x: number) => ({
  eye: new THREE.Vector3(x, -20, 5),
  target: new THREE.Vector3(x, 0, 0.5),
});

describe("where one stood", () => {
  beforeEach(() => {
    sessionStorage.clear();
    forgetStands();
  });

  it("is found under the first name that is known, after a reload too", () => {
    keepStand(["revision 1", "item 9"], at(1));
    keepStand(["revision 2", "item 9"], at(2));
    forgetStands();
    expect(standOf(["revision 1", "item 9"])!.eye.toArray()).toEqual([1, -20, 5]);
    // a revision that is new is looked at from where the item was left
    expect(standOf(["revision 3", "item 9"])!.target.toArray()).toEqual([2, 0, 0.5]);
    expect(standOf(["revision 4", "item 8"])).toBeUndefined();
  });

  it("is kept of two hundred names, the latest", () => {
    for (let one = 0; one < 250; one++) keepStand([`revision ${one}`], at(one));
    expect(standOf(["revision 49"])).toBeUndefined();
    expect(standOf(["revision 50"])!.eye.x).toBe(50);
    forgetStands();
    expect(standOf(["revision 249"])!.eye.x).toBe(249);
  });

  it.each(["{", "null", '[["revision 1",[1,2,3]]]', '[["revision 1",[1,2,3,4,5,null]]]'])(
    "is nowhere where the browser kept %s",
    (kept) => {
      sessionStorage.setItem("ironcaulk stands", kept);
      expect(standOf(["revision 1"])).toBeUndefined();
    },
  );
});
