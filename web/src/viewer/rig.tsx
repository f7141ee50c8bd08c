import { useFrame, useThree } from "@react-three/fiber";
import { useEffect, useMemo, useRef } from "react";
import * as THREE from "three";
import { OrbitControls } from "three/examples/jsm/controls/OrbitControls.js";
import { EYE } from "./eye";
import type { Link, Stand } from "./link";
import type { Skin } from "./skin";
import { keepStand, standOf } from "./stands";

export type Direction = "front" | "back" | "left" | "right" | "above" | "under";

/** Where to take the camera. `turn` changes with every request. */
export type Flight =
  | { turn: number; to: "whole" }
  | { turn: number; to: Direction }
  /** From so many degrees round from the front, and up; or by so many from where it is. */
  | { turn: number; to: "angles" | "turned"; round: number; up: number }
  | { turn: number; to: "place"; box: [number[], number[]]; facing: number[] };

const FROM: Record<Direction, [number, number, number]> = {
  front: [0, -1, 0],
  back: [0, 1, 0],
  left: [-1, 0, 0],
  right: [1, 0, 0],
  above: [0, 0, 1],
  under: [0, 0, -1],
};
/** Angles of view, degrees. The smaller stands for none: lines lean by less than a degree. */
const PERSPECTIVE = 32;
const PARALLEL = 1.5;
/** The near plane is no nearer than this share of the model's radius, so that depths stay apart. */
const NEAREST = 1 / 4000;
const START = new THREE.Vector3(0.55, -1, 0.5).normalize();
/** Plate and things of known size stand within so many radii of the middle. */
const ROUND = 4;
const SECONDS = 0.35;
const MARGIN = 1.15;

const RADIAN = Math.PI / 180;

/** The direction to look from: degrees round from the front, to the right, and up. */
function fromAngles(round: number, up: number): THREE.Vector3 {
  const [a, b] = [round * RADIAN, up * RADIAN];
  return new THREE.Vector3(Math.sin(a) * Math.cos(b), -Math.cos(a) * Math.cos(b), Math.sin(b));
}

function anglesOf(away: THREE.Vector3): { round: number; up: number } {
  const up = Math.asin(away.z / Math.max(away.length(), 1e-12)) / RADIAN;
  return { round: Math.atan2(away.x, -away.y) / RADIAN, up };
}

/** Looking from straight above or below leaves no way up; a hair to the front does. */
function safe(direction: THREE.Vector3): THREE.Vector3 {
  const d = direction.clone().normalize();
  if (Math.abs(d.z) > 0.9995) d.y -= 0.002;
  return d.normalize();
}

type Props = {
  skin: Skin;
  /** None where the camera only follows another view's. */
  flight: Flight | null;
  link: Link | null;
  /** Under what names the place of the camera is remembered, so that who comes back finds it. */
  remember: readonly string[];
  /** Whether the left button, or one finger, belongs to a tool: then the right one turns. */
  taken: boolean;
  /** Without perspective: what is far is drawn as large as what is near. */
  parallel: boolean;
};

/** Half the view's angle on its narrower side. */
function narrowHalf(camera: THREE.PerspectiveCamera, aspect: number): number {
  const half = THREE.MathUtils.degToRad(camera.fov / 2);
  return Math.min(half, Math.atan(Math.tan(half) * aspect));
}

/** How much farther off one angle of view shows as much as another. */
function farther(from: number, to: number): number {
  const half = (degrees: number) => Math.tan(THREE.MathUtils.degToRad(degrees / 2));
  return half(from) / half(to);
}

/** How much of the view something stands over at its foot, pixels. */
const footOf = (canvas: HTMLElement) =>
  parseFloat(canvas.closest("main")?.style.getPropertyValue("--foot") ?? "") || 0;

/** Camera, controls and flights. Drag to turn, wheel to zoom towards the pointer. */
export function Rig({ skin, flight, link, remember, taken, parallel }: Props) {
  const { camera, gl, invalidate, size, set } = useThree();
  const radius = Math.max(skin.box.getSize(new THREE.Vector3()).length() / 2, 1e-6);
  const controls = useMemo(() => {
    const made = new OrbitControls(camera, gl.domElement);
    made.zoomToCursor = true;
    made.enableDamping = false;
    return made;
  }, [camera, gl]);
  const way = useRef<{
    from: [THREE.Vector3, THREE.Vector3];
    to: [THREE.Vector3, THREE.Vector3];
    done: number;
  } | null>(null);
  const placed = useRef(false);
  const flown = useRef({ turn: -1, middle: skin.middle });

  useEffect(() => {
    const stop = () => {
      way.current = null;
    };
    const redraw = () => invalidate();
    set({ controls });
    controls.addEventListener("start", stop);
    controls.addEventListener("change", redraw);
    const tell = () =>
      link?.lead({
        eye: camera.position.clone().add(skin.middle),
        target: controls.target.clone().add(skin.middle),
      });
    // what is dragged leads, whichever of the two views it is
    let following = false;
    const changed = () => {
      if (!following) tell();
    };
    const go = ({ eye, target }: Stand) => {
      following = true;
      camera.position.copy(eye).sub(skin.middle);
      controls.target.copy(target).sub(skin.middle);
      controls.update();
      following = false;
      placed.current = true;
      invalidate();
    };
    controls.addEventListener("change", changed);
    const letGo = link?.follow(go);
    return () => {
      controls.removeEventListener("start", stop);
      controls.removeEventListener("change", redraw);
      controls.removeEventListener("change", changed);
      letGo?.();
    };
  }, [controls, camera, skin, link, invalidate, set]);
  useEffect(() => () => controls.dispose(), [controls]);
  useEffect(() => {
    const keep = () => {
      if (!remember.length || !placed.current) return;
      const { middle } = flown.current;
      const change = farther((camera as THREE.PerspectiveCamera).fov, PERSPECTIVE);
      const target = controls.target.clone().add(middle);
      const away = camera.position.clone().sub(controls.target).multiplyScalar(change);
      keepStand(remember, { eye: away.add(target), target });
    };
    window.addEventListener("pagehide", keep);
    return () => {
      window.removeEventListener("pagehide", keep);
      keep();
    };
  }, [remember, camera, controls]);
  const leads = flight !== null;
  useEffect(() => {
    if (!leads) return undefined;
    EYE.camera = camera;
    EYE.canvas = gl.domElement;
    return () => {
      EYE.camera = EYE.canvas = null;
    };
  }, [leads, camera, gl]);
  useEffect(() => {
    const { ROTATE, PAN, DOLLY } = THREE.MOUSE;
    controls.mouseButtons = taken
      ? { LEFT: null, MIDDLE: PAN, RIGHT: ROTATE }
      : { LEFT: ROTATE, MIDDLE: DOLLY, RIGHT: PAN };
    controls.touches = taken
      ? { ONE: null, TWO: THREE.TOUCH.DOLLY_ROTATE }
      : { ONE: THREE.TOUCH.ROTATE, TWO: THREE.TOUCH.DOLLY_PAN };
  }, [controls, taken]);

  // a view that becomes narrower steps back, so that as much is in it as before
  const narrow = narrowHalf(camera as THREE.PerspectiveCamera, size.width / size.height);
  const before = useRef(narrow);
  useEffect(() => {
    const change = Math.sin(before.current) / Math.sin(narrow);
    before.current = narrow;
    if (!placed.current || !flight || Math.abs(change - 1) < 1e-6) return;
    camera.position.sub(controls.target).multiplyScalar(change).add(controls.target);
    if (way.current) {
      // a flight that is under way ends farther off, too
      for (const [eye, target] of [way.current.from, way.current.to]) {
        eye.sub(target).multiplyScalar(change).add(target);
      }
    }
    controls.update();
  }, [narrow, camera, controls, flight]);

  // from so far off that nothing is drawn smaller for being further, and as large as before
  useEffect(() => {
    const perspective = camera as THREE.PerspectiveCamera;
    const fov = parallel ? PARALLEL : PERSPECTIVE;
    if (perspective.fov === fov) return;
    const change = farther(perspective.fov, fov);
    perspective.fov = fov;
    camera.position.sub(controls.target).multiplyScalar(change).add(controls.target);
    way.current = null;
    perspective.updateProjectionMatrix();
    before.current = narrowHalf(perspective, size.width / size.height);
    controls.update();
    invalidate();
  }, [camera, controls, parallel, size, invalidate]);

  useEffect(() => {
    const wide = parallel ? PERSPECTIVE / PARALLEL : 1;
    controls.maxDistance = radius * 20 * wide;
    controls.minDistance = (radius / 200) * wide;
    if (!flight) return;
    const { turn: last, middle } = flown.current;
    flown.current = { turn: flight.turn, middle: skin.middle };
    if (placed.current && last === flight.turn) {
      // another revision is looked at from where one stands
      const by = middle.clone().sub(skin.middle);
      camera.position.add(by);
      controls.target.add(by);
      controls.update();
      invalidate();
      return;
    }
    const known = placed.current ? undefined : standOf(remember);
    if (known) {
      const change = farther(PERSPECTIVE, (camera as THREE.PerspectiveCamera).fov);
      controls.target.copy(known.target).sub(skin.middle);
      camera.position.subVectors(known.eye, known.target).multiplyScalar(change);
      camera.position.add(controls.target);
      controls.update();
      placed.current = true;
      invalidate();
      return;
    }
    // all of it is to be seen above what stands at the foot of the view
    const free = Math.max(0.3, 1 - footOf(gl.domElement) / size.height);
    const half = THREE.MathUtils.degToRad((camera as THREE.PerspectiveCamera).fov / 2);
    const narrowest = Math.min(narrow, Math.atan(Math.tan(half) * free));
    const away = (r: number) => (r * MARGIN) / Math.sin(narrowest);
    const target = new THREE.Vector3();
    // who asks while the camera still goes means where it goes to
    const [eye, aim] = way.current?.to ?? [camera.position, controls.target];
    const now = eye.clone().sub(aim);
    let direction = now.lengthSq() > 0 && placed.current ? now.normalize() : START;
    let distance = away(radius);
    if (flight.to === "place") {
      const [low, high] = flight.box.map((p) => new THREE.Vector3(...p).sub(skin.middle));
      target.addVectors(low!, high!).multiplyScalar(0.5);
      const facing = new THREE.Vector3(...flight.facing);
      if (facing.lengthSq() > 0.5) direction = facing;
      distance = away(Math.min(radius, Math.max(low!.distanceTo(high!) * 1.1, radius * 0.14)));
    } else if (flight.to === "angles") {
      direction = fromAngles(flight.round, flight.up);
    } else if (flight.to === "turned") {
      target.copy(aim);
      distance = eye.distanceTo(aim);
      const { round, up } = anglesOf(eye.clone().sub(aim));
      direction = fromAngles(round + flight.round, Math.max(-90, Math.min(90, up + flight.up)));
    } else if (flight.to !== "whole") {
      direction = new THREE.Vector3(...FROM[flight.to]);
    }
    const end = target.clone().addScaledVector(safe(direction), distance);
    const still = window.matchMedia("(prefers-reduced-motion: reduce)").matches;
    if (!placed.current || still) {
      camera.position.copy(end);
      controls.target.copy(target);
      controls.update();
      placed.current = true;
    } else {
      way.current = {
        from: [camera.position.clone(), controls.target.clone()],
        to: [end, target],
        done: 0,
      };
    }
    invalidate();
    // a flight is asked for once; a changed window does not repeat it
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [flight?.turn, skin, controls]);

  // what is looked at is never cut off in front: the near plane goes as near as the model is
  useFrame(() => {
    const perspective = camera as THREE.PerspectiveCamera;
    const away = camera.position.length();
    const near = Math.max(away - radius * ROUND, radius * NEAREST);
    const far = away + radius * ROUND;
    // the middle of the picture is the middle of what nothing stands over
    const foot = footOf(gl.domElement);
    const { width, height } = size;
    const view = perspective.view;
    const same = Math.abs(perspective.near / near - 1) < 0.02 && perspective.far === far;
    if (
      same &&
      view?.offsetY === foot / 2 &&
      view.fullWidth === width &&
      view.fullHeight === height
    )
      return;
    perspective.near = near;
    perspective.far = far;
    perspective.setViewOffset(width, height, 0, foot / 2, width, height);
  }, -1);
  useEffect(() => {
    // what stands at the foot of the view may grow while nothing else asks for a picture
    const main = gl.domElement.closest("main");
    if (!main || typeof MutationObserver === "undefined") return undefined;
    const seen = new MutationObserver(() => invalidate());
    seen.observe(main, { attributes: true, attributeFilter: ["style"] });
    return () => seen.disconnect();
  }, [gl, invalidate]);

  useFrame((_, delta) => {
    const going = way.current;
    if (!going) return;
    going.done = Math.min(1, going.done + Math.min(delta, 0.1) / SECONDS);
    const t = 1 - (1 - going.done) ** 3;
    // turn round the target rather than through the model
    const [fromEye, fromTarget] = going.from;
    const [toEye, toTarget] = going.to;
    controls.target.lerpVectors(fromTarget, toTarget, t);
    const a = new THREE.Spherical().setFromVector3(swing(fromEye.clone().sub(fromTarget)));
    const b = new THREE.Spherical().setFromVector3(swing(toEye.clone().sub(toTarget)));
    let turn = b.theta - a.theta;
    turn -= Math.round(turn / (2 * Math.PI)) * 2 * Math.PI;
    const s = new THREE.Spherical(
      a.radius + (b.radius - a.radius) * t,
      a.phi + (b.phi - a.phi) * t,
      a.theta + turn * t,
    );
    camera.position.copy(swingBack(new THREE.Vector3().setFromSpherical(s))).add(controls.target);
    controls.update();
    if (going.done === 1) way.current = null;
    invalidate();
  });
  return null;
}

/** three's spherical coordinates stand on y; our models stand on z. */
const swing = (v: THREE.Vector3) => new THREE.Vector3(v.x, v.z, -v.y);
const swingBack = (v: THREE.Vector3) => new THREE.Vector3(v.x, -v.z, v.y);
