import { useThree } from "@react-three/fiber";
import { useEffect, useRef } from "react";
import * as THREE from "three";
import type { MeshBVH } from "three-mesh-bvh";
import type { Clip } from "./clip";
import type { LoadedSkin } from "./load-skin";
import { isHidden, shellAt, type Sight } from "./shells";
import type { Skin } from "./skin";

/** What lies under the pointer: a face, its shell, and the point in mm. */
export type Hit = {
  face: number;
  shell: number;
  at: THREE.Vector3;
  tree: MeshBVH;
  /** Whether it is material that a cut lays open; the face is the one behind it. */
  cut: boolean;
};

const CLICK = 4;
/** A face that lies in the plane of a cut is not away, mm. */
const HAIR = 1e-5;

/** The nearest face in sight along a ray, or the material that a cut lays open. */
export function pick(
  skin: Skin,
  tree: MeshBVH,
  ray: THREE.Ray,
  sight: Sight,
  plane: THREE.Plane | null = null,
): Hit | null {
  const all = !sight.hidden.size && sight.only === null;
  const first = all && !plane ? tree.raycastFirst(ray, THREE.DoubleSide) : null;
  const hits = all && !plane ? (first ? [first] : []) : tree.raycast(ray, THREE.DoubleSide);
  hits.sort((a, b) => a.distance - b.distance);
  const seen = hits.filter(
    ({ faceIndex, point }) =>
      !isHidden(sight, shellAt(skin.starts, faceIndex!)) &&
      !(plane && plane.distanceToPoint(point) < -HAIR),
  );
  const nearest = seen[0];
  if (!nearest) return null;
  const face = nearest.faceIndex!;
  const shell = shellAt(skin.starts, face);
  if (plane && plane.distanceToPoint(ray.origin) < 0) {
    // ways out less ways in, beyond the plane: how often the point in it lies in material
    const inside = seen.reduce((n, hit) => n + Math.sign(hit.face!.normal.dot(ray.direction)), 0);
    const at = ray.intersectPlane(plane, new THREE.Vector3());
    if (at && inside !== 0) return { face, shell, at: at.add(skin.middle), tree, cut: true };
  }
  return { face, shell, at: nearest.point.clone().add(skin.middle), tree, cut: false };
}

/** Where the pointer is on the view, in pixels and from -1 to 1 as a projection has it; of what. */
export type PointerAt = {
  x: number;
  y: number;
  ndc: [number, number];
  camera: THREE.Camera;
  size: { width: number; height: number };
  /** The tree of all faces; null until it is built. */
  tree: MeshBVH | null;
  /** What lies under another pixel of the view. */
  hitAt: (x: number, y: number) => Hit | null;
};

/** The ray through where the pointer is, from the skin's middle. */
export function rayThrough({ ndc, camera }: Pick<PointerAt, "ndc" | "camera">): THREE.Ray {
  const caster = new THREE.Raycaster();
  caster.setFromCamera(new THREE.Vector2(...ndc), camera);
  return caster.ray;
}

/** What a tool does with the pointer; `press` says whether it keeps it until it is let go. */
export type Grip = {
  press: (hit: Hit | null, at: PointerAt, event: PointerEvent) => boolean;
  drag: (hit: Hit | null, at: PointerAt, event: PointerEvent) => void;
  release: (at: PointerAt, event: PointerEvent) => void;
};

/** An event on the canvas: the keys have moved the pointed-at place, or take what is there. */
export const KEY_POINT = "key-point";
export type KeyPoint = { x: number; y: number; takes: boolean; shift: boolean };

type Props = {
  skin: LoadedSkin;
  sight: Sight;
  clip: Clip | null;
  onHover: (hit: Hit | null, at: PointerAt | null) => void;
  onPick: (hit: Hit | null, at: PointerAt) => void;
  grip: Grip | null;
};

/** Tells what the pointer is over, once a frame at most, what was clicked, and what is dragged. */
export function Picking({ skin, sight, clip, onHover, onPick, grip }: Props) {
  const { gl, camera, controls } = useThree();
  const latest = useRef({ onHover, onPick, grip });
  useEffect(() => {
    latest.current = { onHover, onPick, grip };
  });
  useEffect(() => {
    let tree: MeshBVH | null = null;
    let gone = false;
    let frame = 0;
    let down: [number, number] | null = null;
    let kept = false;
    const canvas = gl.domElement;
    void skin.tree.then((built) => {
      if (gone) return;
      tree = built;
      canvas.dataset.picking = "ready";
    });
    const pixel = (x: number, y: number): PointerAt => {
      const { width, height } = canvas.getBoundingClientRect();
      const ndc: [number, number] = [(x / width) * 2 - 1, 1 - (y / height) * 2];
      const hitAt = (u: number, v: number) => under(pixel(u, v));
      return { x, y, ndc, camera, size: { width, height }, tree, hitAt };
    };
    const placeOf = (event: PointerEvent): PointerAt => {
      const box = canvas.getBoundingClientRect();
      return pixel(event.clientX - box.left, event.clientY - box.top);
    };
    const under = (at: PointerAt): Hit | null =>
      tree && pick(skin, tree, rayThrough(at), sight, clip?.plane);
    const orbits = (on: boolean) => {
      if (controls) (controls as unknown as { enabled: boolean }).enabled = on;
    };
    const moved = (event: PointerEvent) => {
      cancelAnimationFrame(frame);
      if (event.buttons && !kept) return;
      const at = placeOf(event);
      // every place of a drag counts; of where the pointer only passes, one a frame
      if (kept) latest.current.grip?.drag(under(at), at, event);
      else frame = requestAnimationFrame(() => latest.current.onHover(under(at), at));
    };
    const left = () => {
      cancelAnimationFrame(frame);
      latest.current.onHover(null, null);
    };
    const pressed = (event: PointerEvent) => {
      down = event.button === 0 ? [event.clientX, event.clientY] : null;
      const at = placeOf(event);
      if (!down || !latest.current.grip?.press(under(at), at, event)) return;
      kept = true;
      orbits(false);
      canvas.setPointerCapture(event.pointerId);
    };
    const letGo = (event: PointerEvent) => {
      if (!kept) return false;
      kept = false;
      cancelAnimationFrame(frame);
      orbits(true);
      latest.current.grip?.release(placeOf(event), event);
      down = null;
      return true;
    };
    const released = (event: PointerEvent) => {
      if (letGo(event) || !down || !tree) return;
      const far = Math.hypot(event.clientX - down[0], event.clientY - down[1]) > CLICK;
      down = null;
      const at = placeOf(event);
      if (!far) latest.current.onPick(under(at), at);
    };
    // the keys point and take as the pointer does
    const keyed = ({ detail }: CustomEvent<KeyPoint>) => {
      const at = pixel(detail.x, detail.y);
      const hit = under(at);
      const { grip: held, onHover: hear, onPick: take } = latest.current;
      if (!detail.takes) {
        hear(hit, at);
        return;
      }
      const event = new PointerEvent("pointerdown", { shiftKey: detail.shift });
      if (held?.press(hit, at, event)) held.release(at, event);
      else take(hit, at);
    };
    const lost = (event: PointerEvent) => void letGo(event);
    // before the controls that turn the view
    canvas.addEventListener("pointerdown", pressed, { capture: true });
    canvas.addEventListener("pointermove", moved);
    canvas.addEventListener("pointerleave", left);
    canvas.addEventListener("pointerup", released);
    canvas.addEventListener("pointercancel", lost);
    canvas.addEventListener(KEY_POINT, keyed as EventListener);
    return () => {
      gone = true;
      cancelAnimationFrame(frame);
      if (kept) orbits(true);
      delete canvas.dataset.picking;
      canvas.removeEventListener("pointerdown", pressed, { capture: true });
      canvas.removeEventListener("pointermove", moved);
      canvas.removeEventListener("pointerleave", left);
      canvas.removeEventListener("pointerup", released);
      canvas.removeEventListener("pointercancel", lost);
      canvas.removeEventListener(KEY_POINT, keyed as EventListener);
    };
  }, [skin, sight, clip, gl, camera, controls]);
  return null;
}
