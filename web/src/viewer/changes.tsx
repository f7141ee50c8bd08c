import { useThree } from "@react-three/fiber";
import { useEffect, useMemo } from "react";
import * as THREE from "three";
import { dividedFaces } from "./divided-faces";
import type { Clip } from "./clip";
import { type Division, DIVISIONS, readDivision } from "./face-division";
import { tintedBy } from "./depth-material";
import type { Sight } from "./shells";
import { magicOf, type Skin } from "./skin";

/** Where a revision differs from the one before, as the server packs it; see `packing.py`. */
export type Changes = {
  /** The greatest distance of any part from the surface before, mm. */
  greatest: number;
  /** New faces, and how many there are in all. */
  fresh: number;
  faces: number;
  /** How the new faces are divided. */
  division: Division;
  /** Of each part, mm. */
  away: Float32Array;
};

/** Where the tints change, as shares of the greatest distance. */
export const SHARES = [0, 0.25, 0.5, 0.75] as const;
/** Putty where nothing changed, then deeper the farther off. */
export const TINTS = ["#cdbfa6", "#b9ccc4", "#7fb0bd", "#457f9f", "#1e3f6b"] as const;
/** Stands for no change: less than any distance. */
const AS_IT_WAS = -1;
const HEAD = 24;
const STEPS = 65535;

export function unpackChanges(buffer: ArrayBuffer): Changes {
  const view = new DataView(buffer);
  const version = view.getUint32(4, true);
  if (magicOf(view) !== "IKCH" || !DIVISIONS.includes(version)) {
    throw new Error("The changes came in a form that this page does not know; reload it.");
  }
  const faces = view.getUint32(8, true);
  const total = view.getUint32(12, true);
  const greatest = view.getFloat64(16, true);
  const { division, end } = readDivision(buffer, HEAD, faces, version);
  const steps = new Uint16Array(buffer, end, total);
  const fresh = division.n.reduce((count, n) => count + (n ? 1 : 0), 0);
  const away = Float32Array.from(steps, (step) => (step / STEPS) * greatest);
  return { greatest, fresh, faces, division, away };
}

/** The faces in sight, each new one in its parts, with how far they are from the surface before. */
export function changesOf(skin: Skin, changes: Changes, sight: Sight): THREE.BufferGeometry {
  const { division, away } = changes;
  return dividedFaces(skin, "away", division, sight, (face) => {
    const first = division.begin[face]!;
    return (part) => (division.n[face] ? away[first + part]! : AS_IT_WAS);
  });
}

/** The skin tinted by what is new in it, and by how far that is from the surface before. */
export function ChangedSkin(props: {
  skin: Skin;
  changes: Changes;
  sight: Sight;
  clip: Clip | null;
}) {
  const { skin, changes, sight, clip } = props;
  const invalidate = useThree((state) => state.invalidate);
  const material = useMemo(() => tintedBy("away", TINTS, SHARES), []);
  const geometry = useMemo(() => changesOf(skin, changes, sight), [skin, changes, sight]);
  useEffect(() => {
    (material.userData as { unit: { value: number } }).unit.value = changes.greatest || 1;
    material.clippingPlanes = clip ? clip.planes : null;
    invalidate();
    return () => geometry.dispose();
  }, [material, geometry, changes, clip, invalidate]);
  return <mesh geometry={geometry} material={material} />;
}
