import * as THREE from "three";
import { count } from "../ui/format";
import type { Hit } from "../viewer/picking";
import { type Pick, roundNear, snap } from "../viewer/picks";
import { linesOf, pixelOf, snappingOf, type Ground, type Tool } from "./ground";
import { showDot } from "./cursor";
import { useHand } from "./hand";
import {
  angleOf,
  distanceOf,
  type Measured,
  NEEDED,
  roundInCut,
  roundOf,
  sumsOfShell,
  throughOf,
} from "./measure";

const calledOn =
  ({ nameOf }: Ground) =>
  (pick: Pick) =>
    pick.to.endsWith("cut") ? pick.to : `${pick.to} of ${shortly(nameOf(pick.shell))}`;

/** "Piece 1, outer skin" within a sentence. */
const shortly = (name: string) => name.split(",")[0]!.replace(/^P/, "p");

/** Measuring: picks that snap, and what comes of them. */
export const rule: Tool = {
  taken: false,
  hover: (hit, at, ground) => {
    if (!hit || !at) {
      showDot(null);
      return "";
    }
    const { kind, centres } = useHand.getState().rule;
    const found = snap(hit, snappingOf(ground, hit, at, centres && kind === "distance"));
    showDot(pixelOf(found.at, ground, at));
    return calledOn(ground)(found);
  },
  pick: (hit, at, ground) => {
    const { rule: held, setRule } = useHand.getState();
    if (!hit) {
      setRule({ picks: [], shown: null });
      return;
    }
    const given = snappingOf(ground, hit, at, held.centres && held.kind === "distance");
    const found = snap(hit, given);
    if (held.kind === "round") {
      const local = hit.at.clone().sub(ground.skin.middle);
      const round = hit.cut
        ? roundInCut(given.lines!, found, ground.skin)
        : (roundNear(hit.face, local, given)?.round ?? null);
      setRule({ picks: [{ ...found, at: hit.at, round }], shown: null });
      return;
    }
    if (held.kind === "through" && hit.cut) {
      // the material itself is meant, however near its line lies
      setRule({ picks: [{ ...found, at: hit.at, to: "cut" }], shown: null });
      return;
    }
    const begun = held.picks.length < NEEDED[held.kind] ? held.picks : [];
    setRule({ picks: [...begun, found], shown: null });
  },
};

/** How far it is from just under a face to the next one, mm; null where there is none. */
function acrossFrom(hit: Pick, tree: Hit["tree"]) {
  return (from: THREE.Vector3, way: THREE.Vector3): number | null => {
    const hair = 1e-4;
    const ray = new THREE.Ray(from.clone().addScaledVector(way, hair), way);
    const found = tree.raycastFirst(ray, THREE.DoubleSide);
    return found && found.faceIndex !== hit.face ? found.distance + hair : null;
  };
}

/** What the picks so far come to; a sentence where they do not come to a measure. */
export function measuredBy(
  picks: readonly Pick[],
  ground: Ground,
  tree: Hit["tree"] | null,
): Measured | string | null {
  const { kind } = useHand.getState().rule;
  const [a, b] = picks;
  if (!a || picks.length < NEEDED[kind]) return null;
  const called = calledOn(ground);
  if (kind === "distance") return distanceOf(a, b!, called);
  if (kind === "angle") return angleOf(a, b!, called);
  if (kind === "round") {
    if (!a.round) return "Nothing round runs through here.";
    return roundOf(a, a.round, ground.skin, a.to.endsWith("cut") ? "in the cut" : called(a));
  }
  if (kind === "through") {
    const lines = tree && linesOf(ground, { tree } as Hit);
    const found = tree && throughOf(a, ground.skin, acrossFrom(a, tree), lines);
    return found ?? "There is no other side straight through here.";
  }
  return null;
}

/** What a shell measures, in words. */
export function pieceText(ground: Ground, shell: number): string {
  const { skin, near } = ground;
  if (!near || shell + 1 >= skin.starts.length) return "";
  const { volume, area, sides } = sumsOfShell(skin, near, shell);
  const faces = skin.starts[shell + 1]! - skin.starts[shell]!;
  return [
    volume === null ? "open" : `${(volume / 1000).toFixed(3)} cm³`,
    `${(area / 100).toFixed(2)} cm²`,
    `${sides.map((x) => x.toFixed(2)).join(" × ")} mm`,
    `${count(faces)} triangles`,
  ].join(" · ");
}
