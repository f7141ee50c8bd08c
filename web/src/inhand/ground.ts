import * as THREE from "three";
import type { Clip } from "../viewer/clip";
import type { LoadedSkin } from "../viewer/load-skin";
import type { Neighbours } from "../viewer/neighbours";
import { type CutLines, cutLines } from "../viewer/outline";
import type { Hit, PointerAt } from "../viewer/picking";
import type { Snapping } from "../viewer/picks";
import type { Sight } from "../viewer/shells";

/** What a tool works on: the model as it is shown, and what has been worked out of it. */
export type Ground = {
  skin: LoadedSkin;
  revision: number;
  near: Neighbours | null;
  sight: Sight;
  clip: Clip | null;
  /** What a shell is called. */
  nameOf: (shell: number) => string;
};

/** One thing that can be in hand. */
export type Tool = {
  /** Whether the left button is its own, so that the right one turns the view. */
  taken: boolean;
  /** What a click would take here, in words. */
  hover?: (hit: Hit | null, at: PointerAt | null, ground: Ground) => string;
  /** What a click does. */
  pick?: (hit: Hit | null, at: PointerAt, ground: Ground) => void;
  /** Whether it keeps the pointer from here on; what it does with it until it is let go. */
  press?: (hit: Hit | null, at: PointerAt, ground: Ground, event: PointerEvent) => boolean;
  drag?: (hit: Hit | null, at: PointerAt, ground: Ground) => void;
  release?: (at: PointerAt, ground: Ground) => void;
};

const LINES = new WeakMap<Clip, { key: string; lines: CutLines }>();

/** The lines of the cut, worked out once for each place of its plane. */
export function linesOf(ground: Ground, hit: Hit | null): CutLines | null {
  const { clip, skin, sight } = ground;
  if (!clip || !hit) return null;
  const { normal, constant } = clip.plane;
  const key = [...normal.toArray(), constant, sight.only, ...sight.hidden].join(" ");
  const known = LINES.get(clip);
  if (known?.key === key) return known.lines;
  const lines = cutLines(skin, hit.tree, clip.plane, sight);
  LINES.set(clip, { key, lines });
  return lines;
}

export function snappingOf(
  ground: Ground,
  hit: Hit | null,
  { camera, size }: PointerAt,
  centres: boolean,
): Snapping {
  return {
    skin: ground.skin,
    near: ground.near,
    camera,
    size,
    lines: linesOf(ground, hit),
    plane: ground.clip?.plane ?? null,
    centres,
  };
}

/** Pixels of the view that a point of the model is drawn at. */
export function pixelOf(
  at: THREE.Vector3,
  { skin }: Ground,
  { camera, size }: PointerAt,
): [number, number] {
  const p = at.clone().sub(skin.middle).project(camera);
  return [((p.x + 1) / 2) * size.width, ((1 - p.y) / 2) * size.height];
}

/** Pixels that a millimetre takes at a point of the model. */
export function perMm(at: THREE.Vector3, ground: Ground, pointer: PointerAt): number {
  const side = new THREE.Vector3().setFromMatrixColumn(pointer.camera.matrixWorld, 0);
  const [x, y] = pixelOf(at, ground, pointer);
  const [px, py] = pixelOf(at.clone().add(side), ground, pointer);
  return Math.hypot(px - x, py - y);
}
