import * as THREE from "three";
import { length } from "../ui/format";
import { type CutLines, ringThrough, nearestOn, widthAt } from "../viewer/outline";
import type { Neighbours } from "../viewer/neighbours";
import type { Pick } from "../viewer/picks";
import { circleThrough, type Round } from "../viewer/rounds";
import type { Skin } from "../viewer/skin";
import type { RuleKind } from "./hand";

/** What was measured: its number, and the lines and points that are drawn for it, in mm. */
export type Measured = {
  kind: RuleKind;
  /** mm, or degrees of an angle. */
  value: number;
  unit: "mm" | "°";
  /** From what to what, in words. */
  between: string;
  /** More numbers, as text. */
  more: string;
  /** Where its number is written, and the line that is drawn: points one after the other. */
  at: [number, number, number];
  line: [number, number, number][];
};

/** Picks that a kind of measure needs. */
export const NEEDED: Record<RuleKind, number> = {
  distance: 2,
  angle: 2,
  round: 1,
  through: 1,
  piece: 1,
};

const triple = (v: THREE.Vector3): [number, number, number] => [v.x, v.y, v.z];
const middleOf = (a: THREE.Vector3, b: THREE.Vector3) => a.clone().add(b).multiplyScalar(0.5);

export function distanceOf(a: Pick, b: Pick, called: (pick: Pick) => string): Measured {
  const [dx, dy, dz] = b.at.clone().sub(a.at).toArray().map(Math.abs) as [number, number, number];
  return {
    kind: "distance",
    value: a.at.distanceTo(b.at),
    unit: "mm",
    between: `${called(a)} to ${called(b)}`,
    more: `x ${dx.toFixed(2)}, y ${dy.toFixed(2)}, z ${dz.toFixed(2)}`,
    at: triple(middleOf(a.at, b.at)),
    line: [triple(a.at), triple(b.at)],
  };
}

/** Between two faces, two edges, or a face and an edge: never more than a straight angle. */
export function angleOf(a: Pick, b: Pick, called: (pick: Pick) => string): Measured {
  const lean = (p: Pick, q: Pick) => p.along!.angleTo(q.normal);
  const degrees = (radians: number) => (radians * 180) / Math.PI;
  let value: number;
  if (a.along && b.along) {
    const between = degrees(a.along.angleTo(b.along));
    value = Math.min(between, 180 - between);
  } else if (a.along || b.along) {
    value = Math.abs(90 - degrees(a.along ? lean(a, b) : lean(b, a)));
  } else {
    // as it would be measured across the material: 90 between the sides of a box
    value = 180 - degrees(a.normal.angleTo(b.normal));
  }
  return {
    kind: "angle",
    value,
    unit: "°",
    between: `${called(a)} and ${called(b)}`,
    more: "",
    at: triple(middleOf(a.at, b.at)),
    line: [triple(a.at), triple(b.at)],
  };
}

export function roundOf(pick: Pick, round: Round, skin: Skin, of: string): Measured {
  const centre = round.centre.clone().add(skin.middle);
  const out = pick.at.clone().sub(centre);
  out.addScaledVector(round.axis, -out.dot(round.axis));
  if (out.length() < 1e-9) out.set(1, 0, 0).cross(round.axis);
  out.setLength(round.radius);
  return {
    kind: "round",
    value: 2 * round.radius,
    unit: "mm",
    between: of,
    more: `round within ${length(round.off)}; centre ${centre
      .toArray()
      .map((x) => x.toFixed(2))
      .join(", ")}`,
    at: triple(centre),
    line: [triple(centre.clone().sub(out)), triple(centre.clone().add(out))],
  };
}

/** The round line of a cut that runs nearest to a pick. */
export function roundInCut(lines: CutLines, pick: Pick, skin: Skin): Round | null {
  const near = nearestOn(lines, pick.at.clone().sub(skin.middle));
  return near && circleThrough(ringThrough(lines, near.index));
}

/** Through the material, straight in from a face; or across it in a cut. */
export function throughOf(
  pick: Pick,
  skin: Skin,
  across: (from: THREE.Vector3, way: THREE.Vector3) => number | null,
  lines: CutLines | null,
): Measured | null {
  const local = pick.at.clone().sub(skin.middle);
  if (pick.to === "cut" && lines) {
    const ends = widthAt(lines, local, pick.normal);
    if (!ends) return null;
    const [a, b] = ends.map((end) => end.clone().add(skin.middle)) as [
      THREE.Vector3,
      THREE.Vector3,
    ];
    return {
      kind: "through",
      value: a.distanceTo(b),
      unit: "mm",
      between: "across, in the cut",
      more: "",
      at: triple(middleOf(a, b)),
      line: [triple(a), triple(b)],
    };
  }
  const way = pick.normal.clone().negate();
  const far = across(local, way);
  if (far === null) return null;
  const end = pick.at.clone().addScaledVector(way, far);
  return {
    kind: "through",
    value: far,
    unit: "mm",
    between: "straight through, from the face",
    more: "",
    at: triple(middleOf(pick.at, end)),
    line: [triple(pick.at), triple(end)],
  };
}

export type PieceSums = { volume: number | null; area: number; sides: [number, number, number] };

/** Volume, area and sides of a shell; an open one encloses nothing. */
export function sumsOfShell(skin: Skin, near: Neighbours, shell: number): PieceSums {
  const { positions, corners, starts } = skin;
  const box = new THREE.Box3();
  const [a, b, c] = [new THREE.Vector3(), new THREE.Vector3(), new THREE.Vector3()];
  let volume = 0;
  let area = 0;
  let open = false;
  for (let f = starts[shell]!; f < (starts[shell + 1] ?? corners.length / 3); f++) {
    a.fromArray(positions, corners[3 * f]! * 3);
    b.fromArray(positions, corners[3 * f + 1]! * 3);
    c.fromArray(positions, corners[3 * f + 2]! * 3);
    box.expandByPoint(a).expandByPoint(b).expandByPoint(c);
    volume += a.dot(b.cross(c)) / 6;
    area += near.areas[f]!;
    for (let k = 0; k < 3; k++) open ||= near.twins[3 * f + k]! < 0;
  }
  return { volume: open ? null : volume, area, sides: triple(box.getSize(new THREE.Vector3())) };
}
