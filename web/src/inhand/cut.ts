import * as THREE from "three";
import type { CutPlane } from "../viewer/clip";
import { snap } from "../viewer/picks";
import type { Skin } from "../viewer/skin";
import { showDot } from "./cursor";
import { perMm, pixelOf, snappingOf, type Tool } from "./ground";
import {
  type Cut,
  type CutBy,
  type CutByDrawing,
  type CutBySolid,
  type Cutter,
  useHand,
} from "./hand";

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
export function cutThrough(
  skin: Skin,
  by: Exclude<CutBy, "picks" | CutByDrawing>,
  camera?: THREE.Camera,
): Cut {
  const away = camera ? camera.getWorldDirection(new THREE.Vector3()) : new THREE.Vector3(0, 1, 0);
  const normal: CutPlane["normal"] = by === "view" ? away.normalize().toArray() : AXES[by];
  const [low, high] = rangeOf(skin, normal);
  return { by, plane: { normal, offset: (low + high) / 2 }, both: false };
}

export const isSolid = (by: CutBy): by is CutBySolid => by === "block" || by === "cylinder";
/** Whether nothing is cut yet: what is to cut is drawn over the model. */
export const isDrawn = (by: CutBy): by is CutByDrawing => by === "line" || isSolid(by);

/** No cut to look into: the model stays whole while what cuts is drawn on it. */
export function cutByDrawing(skin: Skin, by: CutByDrawing): Cut {
  const normal: CutPlane["normal"] = [0, 0, -1];
  const [low, high] = rangeOf(skin, normal);
  return { by, plane: { normal, offset: low - (high - low) }, both: false };
}

/** A block or cylinder in the middle of a model, of half its size. */
export function cutterIn({ box, middle }: Skin): Cutter {
  const size = box.getSize(new THREE.Vector3());
  const tidy = (mm: number) => Number(mm.toPrecision(3));
  return {
    at: box.getCenter(new THREE.Vector3()).add(middle).toArray(),
    sides: [tidy(size.x / 2), tidy(size.y / 2), tidy(size.z / 2)],
    across: tidy(Math.min(size.x, size.y) / 2),
    height: tidy(size.z * 1.2),
    axis: "z",
  };
}

/** Parameters of the operation that cuts with it. */
export function cutOutBy(shape: CutBySolid, cutter: Cutter) {
  const { at, sides, across, height, axis } = cutter;
  if (shape === "block") return { shape, at: [...at], size: [...sides], axis: [0, 0, 1] };
  const way = [0, 0, 0];
  way["xyz".indexOf(axis)] = 1;
  return { shape, at: [...at], size: [across, across, height], axis: way };
}

/** Lines of the drawn outline of a cylinder's end. */
const ROUND = 48;

/** Its outline, line by line. */
export function outlineOf(shape: CutBySolid, cutter: Cutter): number[][][] {
  const { at, sides, across, height, axis } = cutter;
  const place = (x: number, y: number, z: number) => [at[0] + x, at[1] + y, at[2] + z];
  if (shape === "block") {
    const ends = [-0.5, 0.5].map((z) =>
      [-1, 1, 1, -1, -1].map((x, i) =>
        place((x * sides[0]) / 2, ([-1, -1, 1, 1, -1][i]! * sides[1]) / 2, z * sides[2]),
      ),
    );
    return [...ends, ...[0, 1, 2, 3].map((i) => [ends[0]![i]!, ends[1]![i]!])];
  }
  const k = "xyz".indexOf(axis);
  const point = (turn: number, along: number) => {
    const offset = [0, 0, 0];
    offset[k] = along * height;
    offset[(k + 1) % 3] = (across / 2) * Math.cos(turn);
    offset[(k + 2) % 3] = (across / 2) * Math.sin(turn);
    return place(offset[0]!, offset[1]!, offset[2]!);
  };
  const rings = [-0.5, 0.5].map((along) =>
    Array.from({ length: ROUND + 1 }, (_, i) => point((2 * Math.PI * i) / ROUND, along)),
  );
  const quarters = [0, 1, 2, 3].map((i) => (i * Math.PI) / 2);
  return [...rings, ...quarters.map((turn) => [point(turn, -0.5), point(turn, 0.5)])];
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

/** Joints on one cut that are placed by hand. */
const MOST_JOINTS = 40;
/** Corners of a line drawn by hand. */
const MOST_CORNERS = 200;

/** Whether the cut is laid through picks, and more of them are wanted. */
const takesPicks = ({ by }: Cut, count: number) =>
  (by === "picks" && count < 3) || (by === "line" && count < MOST_CORNERS) || isSolid(by);

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
    const { cut: made, jointSpots } = held;
    if (jointSpots && hit?.cut) return "a joint here";
    if (made && takesPicks(made, held.cutPicks.length) && hit && at) {
      const found = snap(hit, snappingOf(ground, hit, at, false));
      showDot(pixelOf(found.at, ground, at));
      return found.to;
    }
    showDot(null);
    return hit?.cut ? "drag to move the cut" : "";
  },
  pick: (hit, at, ground) => {
    const { cut: held, cutPicks, setCutPicks, setCut } = useHand.getState();
    const { jointSpots, setJointSpots } = useHand.getState();
    if (!held || !hit) return;
    if (jointSpots) {
      if (hit.cut && jointSpots.length < MOST_JOINTS) {
        setJointSpots([...jointSpots, hit.at.toArray()]);
      }
      return;
    }
    if (!takesPicks(held, cutPicks.length)) return;
    if (isSolid(held.by)) {
      const { cutter, setCutter } = useHand.getState();
      const { at: middle } = snap(hit, snappingOf(ground, hit, at, false));
      setCutter({ ...(cutter ?? cutterIn(ground.skin)), at: middle.toArray() });
      return;
    }
    if (held.by === "line") {
      const way = cutPicks.length ? undefined : at.camera.getWorldDirection(new THREE.Vector3());
      setCutPicks([...cutPicks, snap(hit, snappingOf(ground, hit, at, false))], way?.toArray());
      return;
    }
    const picks = [...cutPicks, snap(hit, snappingOf(ground, hit, at, false))];
    setCutPicks(picks);
    const plane = planeThrough(picks.map((one) => one.at));
    if (picks.length === 3 && plane) setCut({ ...held, plane });
  },
  press: (hit, at, ground) => {
    const { cut: held } = useHand.getState();
    if (!held || !hit?.cut || useHand.getState().jointSpots) return false;
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
