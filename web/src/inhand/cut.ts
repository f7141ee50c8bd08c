import * as THREE from "three";
import type { CutPlane } from "../viewer/clip";
import { snap } from "../viewer/picks";
import type { Skin } from "../viewer/skin";
import { showDot } from "./cursor";
import { perMm, pixelOf, snappingOf, type Tool } from "./ground";
import { type Cut, type CutBy, useHand } from "./hand";

const AXES: Record<"x" | "y" | "z", CutPlane["normal"]> = {
  x: [1, 0, 0],
  y: [0, 1, 0],
  z: [0, 0, -1],
};

/** How far a plane of a direction can go and still meet the model, mm. */
export function rangeOf({ box, middle }: Skin, normal: CutPlane["normal"]): [number, number] {
  const n = new THREE.Vector3(...normal);
  const centre = box.getCenter(new THREE.Vector3()).add(middle).dot(n);
  const half = box.getSize(new THREE.Vector3()).multiplyScalar(0.5);
  const reach = Math.abs(n.x) * half.x + Math.abs(n.y) * half.y + Math.abs(n.z) * half.z;
  return [centre - reach, centre + reach];
}

/** A cut through the middle of a model, along an axis or facing the one who looks. */
export function cutThrough(skin: Skin, by: Exclude<CutBy, "picks">, camera?: THREE.Camera): Cut {
  const away = camera ? camera.getWorldDirection(new THREE.Vector3()) : new THREE.Vector3(0, 1, 0);
  const normal: CutPlane["normal"] = by === "view" ? away.normalize().toArray() : AXES[by];
  const [low, high] = rangeOf(skin, normal);
  return { by, plane: { normal, offset: (low + high) / 2 }, both: false };
}

/** The plane through three points; null where they lie in a line. */
export function planeThrough(points: readonly THREE.Vector3[]): CutPlane | null {
  const [a, b, c] = points;
  if (!a || !b || !c) return null;
  const normal = b.clone().sub(a).cross(c.clone().sub(a));
  if (normal.length() < 1e-9) return null;
  normal.normalize();
  return { normal: normal.toArray(), offset: normal.dot(a) };
}

export function moved(cut: Cut, offset: number): Cut {
  return { ...cut, plane: { ...cut.plane, offset } };
}

/** The plane being dragged: where it was, and millimetres along it for a pixel on the screen. */
let dragged: { from: number; x: number; y: number; way: [number, number] } | null = null;

/** The section plane: dragged by the material that it lays open, or laid through three picks. */
export const cut: Tool = {
  taken: false,
  hover: (hit, at, ground) => {
    const held = useHand.getState();
    if (held.cut?.by === "picks" && held.cutPicks.length < 3 && hit && at) {
      const found = snap(hit, snappingOf(ground, hit, at, false));
      showDot(pixelOf(found.at, ground, at));
      return found.to;
    }
    showDot(null);
    return hit?.cut ? "drag to move the cut" : "";
  },
  pick: (hit, at, ground) => {
    const { cut: held, cutPicks, setCutPicks, setCut } = useHand.getState();
    if (held?.by !== "picks" || !hit || cutPicks.length >= 3) return;
    const picks = [...cutPicks, snap(hit, snappingOf(ground, hit, at, false))];
    setCutPicks(picks);
    const plane = planeThrough(picks.map((one) => one.at));
    if (picks.length === 3 && plane) setCut({ ...held, plane });
  },
  press: (hit, at, ground) => {
    const { cut: held } = useHand.getState();
    if (!held || !hit?.cut) return false;
    const normal = new THREE.Vector3(...held.plane.normal);
    const [x, y] = pixelOf(hit.at, ground, at);
    const [u, v] = pixelOf(hit.at.clone().add(normal), ground, at);
    const long = Math.hypot(u - x, v - y);
    const across = perMm(hit.at, ground, at);
    // seen straight on, up goes in
    const way: [number, number] =
      long < 0.05 * across ? [0, -1 / across] : [(u - x) / long ** 2, (v - y) / long ** 2];
    dragged = { from: held.plane.offset, x: at.x, y: at.y, way };
    return true;
  },
  drag: (_, at, { skin }) => {
    const { cut: held, setCut } = useHand.getState();
    if (!dragged || !held) return;
    const by = (at.x - dragged.x) * dragged.way[0] + (at.y - dragged.y) * dragged.way[1];
    const [low, high] = rangeOf(skin, held.plane.normal);
    setCut(moved(held, Math.min(high, Math.max(low, dragged.from + by))));
  },
  release: () => {
    dragged = null;
  },
};
