import * as THREE from "three";
import {
  brushed,
  type Choice,
  flatFrom,
  nothingOf,
  outlined,
  shellFrom,
  smoothFrom,
  withFaces,
} from "../viewer/choice";
import type { Hit, PointerAt } from "../viewer/picking";
import type { Skin } from "../viewer/skin";
import { showDrawn, showRound } from "./cursor";
import { perMm, pixelOf, type Ground, type Tool } from "./ground";
import { useHand } from "./hand";

/** What is being drawn on the screen: its points in pixels, and from -1 to 1. */
type Drawing = { points: [number, number][]; ndc: [number, number][]; takes: boolean };

let drawing: Drawing | null = null;
let painting: { takes: boolean; x: number; y: number } | null = null;

/** Places of a stroke are no further apart than this share of the brush's radius on the screen. */
const CLOSE = 0.5;
const MOST_STEPS = 40;

/** A radius that suits a model: a fortieth of its diagonal, to two figures. */
export function usualRadius({ skin }: Ground): number {
  const diagonal = skin.box.getSize(new THREE.Vector3()).length();
  return Number(Math.max(0.05, diagonal / 40).toPrecision(2));
}

export function choiceOn({ skin, revision }: Ground): Choice {
  const { choice } = useHand.getState();
  const fits = choice?.revision === revision && choice.faces.length === skin.corners.length / 3;
  return fits ? choice.faces : nothingOf(skin);
}

/** Shift turns adding into taking away, and the other way round. */
const takesNow = (event: { shiftKey: boolean }) =>
  useHand.getState().choose.takes !== event.shiftKey;

/** Paint from where the pointer was to where it is, without a gap however fast it goes. */
function paintTo(hit: Hit | null, at: PointerAt, ground: Ground): void {
  if (!painting) return;
  const { x, y, takes } = painting;
  painting = { takes, x: at.x, y: at.y };
  const radius = useHand.getState().choose.radius ?? usualRadius(ground);
  const pixels = hit ? perMm(hit.at, ground, at) * radius : 8;
  const far = Math.hypot(at.x - x, at.y - y);
  const steps = Math.min(MOST_STEPS, Math.ceil(far / Math.max(1, pixels * CLOSE)));
  for (let i = 1; i < steps; i++) {
    const between = at.hitAt(x + ((at.x - x) * i) / steps, y + ((at.y - y) * i) / steps);
    if (between) stroke(between, ground, takes);
  }
  if (hit) stroke(hit, ground, takes);
}

function stroke(hit: Hit, ground: Ground, takes: boolean): void {
  const { choose, paint } = useHand.getState();
  if (!ground.near || hit.cut) return;
  const local = hit.at.clone().sub(ground.skin.middle);
  const radius = choose.radius ?? usualRadius(ground);
  const faces = brushed(ground.skin, ground.near, hit.face, local, radius);
  const before = choiceOn(ground);
  const after = withFaces(before, faces, takes);
  if (after !== before) paint(after);
}

/** Corners of a rectangle from where it began to where the pointer is. */
function rectangle([x, y]: [number, number], [u, v]: [number, number]): [number, number][] {
  return [
    [x, y],
    [u, y],
    [u, v],
    [x, v],
  ];
}

function draw(at: PointerAt): void {
  if (!drawing) return;
  const { by } = useHand.getState().choose;
  if (by === "rectangle") {
    drawing.points = rectangle(drawing.points[0]!, [at.x, at.y]);
    drawing.ndc = rectangle(drawing.ndc[0]!, at.ndc);
  } else {
    drawing.points.push([at.x, at.y]);
    drawing.ndc.push(at.ndc);
  }
  showDrawn(drawing.points);
}

/** Choosing faces: painted, drawn round, or all that hangs together with one in some way. */
export const choose: Tool = {
  taken: true,
  hover: (hit, at, ground) => {
    const { by, radius } = useHand.getState().choose;
    const there = hit && at && by === "brush" && !hit.cut;
    const pixels = there ? perMm(hit.at, ground, at) * (radius ?? usualRadius(ground)) : 0;
    showRound(there ? pixelOf(hit.at, ground, at) : null, pixels);
    return ground.near ? "" : "sorting the faces…";
  },
  press: (hit, at, ground, event) => {
    const { choose: how, setChoice } = useHand.getState();
    if (!ground.near) return true;
    const takes = takesNow(event);
    if (how.by === "rectangle" || how.by === "lasso") {
      drawing = { points: [[at.x, at.y]], ndc: [at.ndc], takes };
      return true;
    }
    if (!hit || hit.cut) return true;
    const { near, skin, revision } = ground;
    if (how.by === "brush") {
      // one step back undoes all of a stroke
      setChoice(choiceOn(ground), revision);
      painting = { takes, x: at.x, y: at.y };
      stroke(hit, ground, takes);
      return true;
    }
    const faces =
      how.by === "flat"
        ? flatFrom(near, hit.face, how.angle)
        : how.by === "smooth"
          ? smoothFrom(near, hit.face, how.angle)
          : shellFrom(skin, hit.face);
    setChoice(withFaces(choiceOn(ground), faces, takes), revision);
    return true;
  },
  drag: (hit, at, ground) => {
    if (drawing) draw(at);
    if (painting) {
      choose.hover!(hit, at, ground);
      paintTo(hit, at, ground);
    }
  },
  release: (at, ground) => {
    painting = null;
    if (!drawing) return;
    draw(at);
    const { ndc, takes } = drawing;
    drawing = null;
    showDrawn([]);
    void takeOutlined(ndc, takes, at, ground);
  },
};

/** Take the faces of some shells into the choice, and choosing in hand. */
export function chooseShells(skin: Skin, revision: number, shells: readonly number[]): void {
  const { choice, setChoice, take } = useHand.getState();
  const fits = choice?.revision === revision && choice.faces.length === skin.corners.length / 3;
  const faces = shells.flatMap((shell) => shellFrom(skin, skin.starts[shell]!));
  take("choose");
  setChoice(withFaces(fits ? choice.faces : nothingOf(skin), faces, false), revision);
}

async function takeOutlined(
  outline: [number, number][],
  takes: boolean,
  { camera }: PointerAt,
  ground: Ground,
): Promise<void> {
  const { through } = useHand.getState().choose;
  const { skin, near, sight, clip, revision } = ground;
  if (!near || outline.length < 3) return;
  const tree = through ? null : await skin.tree;
  // the view may be turned while the rays are cast
  const eye = camera.clone();
  const plane = clip && clip.plane.clone();
  const faces = await outlined(skin, near, outline, { camera: eye, sight, plane, tree });
  useHand.getState().setChoice(withFaces(choiceOn(ground), faces, takes), revision);
}
