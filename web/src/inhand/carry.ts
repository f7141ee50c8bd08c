import * as THREE from "three";
import { pick, type PointerAt, rayThrough } from "../viewer/picking";
import { partedSight } from "../viewer/shells";
import type { Piece } from "../api/client";
import { type Ground, perMm, type Tool } from "./ground";
import { type Carry, type CarryWay, useHand } from "./hand";

const UP = new THREE.Vector3(0, 0, 1);
const ALONG: Partial<Record<CarryWay, THREE.Vector3>> = {
  x: new THREE.Vector3(1, 0, 0),
  y: new THREE.Vector3(0, 1, 0),
  z: UP,
};
/** It cannot be dragged along what is looked at by less than the angle of this sine. */
const LEAST_SINE = 0.05;

/** Shells of some pieces, with all that lies in them. */
export function shellsWithin(
  pieces: readonly Pick<Piece, "shell" | "within">[],
  taken: ReadonlySet<number>,
): Set<number> {
  const within = new Map(pieces.map((one) => [one.shell, one.within]));
  const found = new Set<number>();
  for (const { shell } of pieces) {
    for (let at: number | undefined = shell; at !== undefined && at >= 0; at = within.get(at)) {
      if (taken.has(at)) found.add(shell);
    }
  }
  return found;
}

/**
 * Where along a way, or on a plane, a ray means when it was meant at a point before; or null where
 * that cannot be told. `facing` is which way the one looks who drags.
 */
export function meantBy(
  ray: THREE.Ray,
  from: THREE.Vector3,
  way: CarryWay,
  facing: THREE.Vector3,
): THREE.Vector3 | null {
  const along = ALONG[way];
  if (along) {
    // the point of the line nearest to the ray
    const across = along.clone().cross(ray.direction);
    if (across.length() < LEAST_SINE) return null;
    const normal = across.cross(ray.direction);
    const share = ray.origin.clone().sub(from).dot(normal) / along.dot(normal);
    return from.clone().addScaledVector(along, share);
  }
  const normal = way === "level" ? UP : facing;
  if (Math.abs(ray.direction.dot(normal)) < LEAST_SINE) return null;
  const plane = new THREE.Plane().setFromNormalAndCoplanarPoint(normal, from);
  return ray.intersectPlane(plane, new THREE.Vector3());
}

/** As round a step as the eye can tell on the screen, mm. */
export const stepOf = (pixelsPerMm: number) =>
  10 ** Math.floor(Math.log10(1 / Math.max(pixelsPerMm, 1e-9)));

/** What is dragged: where it was taken, how far it was by then, and seen from which side. */
let held: { at: THREE.Vector3; by: THREE.Vector3; facing: THREE.Vector3; step: number } | null =
  null;

/** Where the pointer is on what is carried, as far as that is by now. */
function pointOn(at: PointerAt, ground: Ground, carry: Carry): THREE.Vector3 | null {
  const { skin, sight } = ground;
  if (!at.tree) return null;
  const by = new THREE.Vector3(...carry.by);
  const ray = rayThrough(at);
  ray.origin.sub(by);
  const [, carried] = partedSight(skin.starts, sight, carry.shells);
  return pick(skin, at.tree, ray, carried)?.at.add(by) ?? null;
}

/** Pieces that are moved: dragged themselves; beside them the view turns as ever. */
export const carrying: Tool = {
  taken: false,
  hover: (_, at, ground) => {
    const { carry } = useHand.getState();
    return at && carry && pointOn(at, ground, carry) ? "drag to move it" : "";
  },
  press: (_, at, ground) => {
    const { carry } = useHand.getState();
    const point = carry && pointOn(at, ground, carry);
    if (!point) return false;
    held = {
      at: point,
      by: new THREE.Vector3(...carry.by),
      facing: at.camera.getWorldDirection(new THREE.Vector3()),
      step: stepOf(perMm(point, ground, at)),
    };
    return true;
  },
  drag: (_, at, ground) => {
    const { carry, setCarry } = useHand.getState();
    if (!held || !carry) return;
    const ray = rayThrough(at);
    ray.origin.add(ground.skin.middle);
    const meant = meantBy(ray, held.at, carry.way, held.facing);
    if (!meant) return;
    const { step } = held;
    const by = meant.sub(held.at).add(held.by);
    const tidy = (mm: number) => Number((Math.round(mm / step) * step).toFixed(6)) + 0;
    setCarry({ by: [tidy(by.x), tidy(by.y), tidy(by.z)] });
  },
  release: () => {
    held = null;
  },
};
