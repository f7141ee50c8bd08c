import * as THREE from "three";
import { type CutLines, nearestOn } from "./outline";
import { isBent, type Neighbours, next, reached } from "./neighbours";
import type { Hit } from "./picking";
import { cylinderAt, isSharp, type Round, roundEdge, straightEdge } from "./rounds";
import { cornerAt, type Skin, triangleOf } from "./skin";

/** What a pick snapped to. */
export type Snapped =
  | "corner"
  | "edge"
  | "middle of an edge"
  | "middle of a face"
  | "face"
  | "centre of a round edge"
  | "centre of a cylinder"
  | "corner of the cut"
  | "line of the cut"
  | "cut";

/** A place that was picked; lengths in mm, in the model's own place. */
export type Pick = {
  at: THREE.Vector3;
  to: Snapped;
  face: number;
  shell: number;
  /** Of the face, or of the cut. */
  normal: THREE.Vector3;
  /** Along the edge, where it snapped to one. */
  along: THREE.Vector3 | null;
  round: Round | null;
};

export type Snapping = {
  skin: Skin;
  near: Neighbours | null;
  camera: THREE.Camera;
  size: { width: number; height: number };
  /** The lines of the cut, while there is one. */
  lines: CutLines | null;
  /** The plane of the cut. */
  plane: THREE.Plane | null;
  /** Whether round edges and cylinders give their centres. */
  centres: boolean;
};

/** Pixels within which a corner or an edge is meant. */
const CORNER = 11;
const EDGE = 8;
/** Faces up to which the middle of a flat face is looked for while the pointer moves. */
const FLAT_FACES = 5_000;
const FLAT = Math.cos((0.5 * Math.PI) / 180);

/** What a hit means: the corner, edge, middle or centre that is nearest on the screen. */
export function snap(hit: Hit, given: Snapping): Pick {
  const { skin, near } = given;
  const local = hit.at.clone().sub(skin.middle);
  const far = distanceOn(given);
  const made = (at: THREE.Vector3, to: Snapped, more: Partial<Pick> = {}): Pick => ({
    at: at.clone().add(skin.middle),
    to,
    face: hit.face,
    shell: hit.shell,
    normal: hit.cut
      ? given.plane!.normal.clone()
      : triangleOf(skin, hit.face).getNormal(new THREE.Vector3()),
    along: null,
    round: null,
    ...more,
  });
  if (given.lines && given.plane) {
    const on = snapToCut(local, given, far, hit.cut);
    if (on) return made(on.at, on.to, { along: on.along, normal: given.plane.normal.clone() });
  }
  if (hit.cut) return made(local, "cut");
  if (near && given.centres) {
    const round = roundNear(hit.face, local, given, far);
    if (round)
      return round.of === "edge"
        ? made(round.round.centre, "centre of a round edge", { round: round.round })
        : made(round.round.centre, "centre of a cylinder", { round: round.round });
  }
  const corners = [0, 1, 2].map((k) => cornerAt(skin, 3 * hit.face + k));
  const [corner] = corners
    .map((at) => ({ at, away: far(at, local) }))
    .sort((a, b) => a.away - b.away);
  if (corner!.away <= CORNER) return made(corner!.at, "corner");
  const line = new THREE.Line3();
  let best: { at: THREE.Vector3; away: number; along: THREE.Vector3; half: number } | null = null;
  for (let k = 0; k < 3; k++) {
    // lines across a flat face are nothing that anybody sees
    if (near && !isBent(near, hit.face * 3 + k, FLAT)) continue;
    line.set(corners[k], corners[(k + 1) % 3]);
    const at = line.closestPointToPoint(local, true, new THREE.Vector3());
    const away = far(at, local);
    if (away > EDGE || (best && best.away <= away)) continue;
    const along = line.delta(new THREE.Vector3()).normalize();
    best = { at, away, along, half: hit.face * 3 + k };
  }
  if (best) {
    const { along, half } = best;
    const [from, to] = near
      ? straightEdge(skin, near, half)
      : [corners[half % 3]!, corners[(half + 1) % 3]!];
    const middle = from.clone().add(to).multiplyScalar(0.5);
    return far(middle, local) <= CORNER
      ? made(middle, "middle of an edge", { along })
      : made(best.at, "edge", { along });
  }
  const middle = near && middleOfFace(skin, near, hit.face);
  if (middle && far(middle, local) <= CORNER) return made(middle, "middle of a face");
  return made(local, "face");
}

/** The round edge or the cylinder that is meant at a hit. */
export function roundNear(
  face: number,
  local: THREE.Vector3,
  given: Snapping,
  far = distanceOn(given),
): { round: Round; of: "edge" | "cylinder" } | null {
  const { skin, near } = given;
  if (!near) return null;
  const line = new THREE.Line3();
  for (let k = 0; k < 3; k++) {
    const half = face * 3 + k;
    if (!isSharp(near, half)) continue;
    line.set(cornerAt(skin, half), cornerAt(skin, next(half)));
    const at = line.closestPointToPoint(local, true, new THREE.Vector3());
    if (far(at, local) > CORNER) continue;
    const round = roundEdge(skin, near, half);
    if (round) return { round, of: "edge" };
  }
  const round = cylinderAt(skin, near, face);
  return round && { round, of: "cylinder" };
}

function snapToCut(
  local: THREE.Vector3,
  { lines, plane }: Snapping,
  far: (a: THREE.Vector3, b: THREE.Vector3) => number,
  onCut: boolean,
): { at: THREE.Vector3; to: Snapped; along: THREE.Vector3 | null } | null {
  const in_ = onCut ? local : plane!.projectPoint(local, new THREE.Vector3());
  if (!onCut && far(in_, local) > CORNER) return null;
  const near = nearestOn(lines!, in_);
  if (!near || far(near.at, in_) > CORNER) return null;
  const ends = [0, 3].map((k) => new THREE.Vector3().fromArray(lines!, near.index + k));
  const along = ends[1]!.clone().sub(ends[0]!).normalize();
  const end = ends.find((one) => far(one, in_) <= EDGE);
  return end
    ? { at: end, to: "corner of the cut", along: null }
    : { at: near.at, to: "line of the cut", along };
}

/** How far two points are from one another on the screen, in pixels. */
function distanceOn({ camera, size }: Snapping) {
  const [p, q] = [new THREE.Vector3(), new THREE.Vector3()];
  return (a: THREE.Vector3, b: THREE.Vector3) => {
    p.copy(a).project(camera);
    q.copy(b).project(camera);
    return Math.hypot(((p.x - q.x) * size.width) / 2, ((p.y - q.y) * size.height) / 2);
  };
}

/** The middle of the flat face that a triangle is a part of; null where that is too large. */
function middleOfFace(skin: Skin, near: Neighbours, seed: number): THREE.Vector3 | null {
  const faces = reached(near, seed, (_, __, half) => !isBent(near, half, FLAT), FLAT_FACES);
  if (faces.length > FLAT_FACES) return null;
  const middle = new THREE.Vector3();
  let total = 0;
  for (const face of faces) {
    const area = near.areas[face]!;
    total += area;
    for (let k = 0; k < 3; k++) middle.addScaledVector(cornerAt(skin, 3 * face + k), area / 3);
  }
  return total > 0 ? middle.divideScalar(total) : null;
}
