import { useThree } from "@react-three/fiber";
import { useEffect, useMemo } from "react";
import * as THREE from "three";
import type { DeviationAsked } from "./deviation-worker";
import { tintedBy } from "./depth-material";
import { cornersInSight, type Sight } from "./shells";
import type { Skin } from "./skin";

/** How far each vertex of a skin is from an earlier one, mm, and the farthest of all. */
export type Deviation = { of: Skin; away: Float32Array; most: number };

/** Where the tints change, as shares of the greatest deviation. */
export const SHARES = [1e-6, 0.25, 0.5, 0.75] as const;
/** Putty where nothing changed, then deeper the farther off. */
export const CHANGES = ["#cdbfa6", "#b9ccc4", "#7fb0bd", "#457f9f", "#1e3f6b"] as const;

/** Measure a skin against an earlier one, off the main thread. */
export function measureDeviation(now: Skin, then: Skin, signal: AbortSignal): Promise<Deviation> {
  const shift = now.middle.clone().sub(then.middle);
  const points = now.positions.map((x, i) => x + shift.getComponent(i % 3));
  const asked: DeviationAsked = {
    points,
    positions: then.positions.slice(),
    corners: then.corners.slice(),
  };
  const worker = new Worker(new URL("./deviation-worker.ts", import.meta.url), { type: "module" });
  signal.addEventListener("abort", () => worker.terminate());
  return new Promise((resolve, reject) => {
    worker.onerror = () => reject(new Error("The two revisions could not be compared."));
    worker.onmessage = ({ data }: MessageEvent<Float32Array>) => {
      worker.terminate();
      resolve({ of: now, away: data, most: data.reduce((a, b) => Math.max(a, b), 0) });
    };
    worker.postMessage(
      asked,
      [asked.points, asked.positions, asked.corners].map((one) => one.buffer as ArrayBuffer),
    );
  });
}

/** The skin tinted by how far it is from an earlier one. */
export function Changes({ deviation, sight }: { deviation: Deviation; sight: Sight }) {
  const invalidate = useThree((state) => state.invalidate);
  const material = useMemo(() => tintedBy("away", CHANGES, SHARES), []);
  const geometry = useMemo(() => {
    const { of, away } = deviation;
    const made = new THREE.BufferGeometry();
    made.setAttribute("position", of.geometry.getAttribute("position"));
    made.setAttribute("away", new THREE.BufferAttribute(away, 1));
    made.setIndex(new THREE.BufferAttribute(cornersInSight(of, sight), 1));
    made.boundingBox = of.geometry.boundingBox;
    made.boundingSphere = of.geometry.boundingSphere;
    return made;
  }, [deviation, sight]);
  useEffect(() => {
    (material.userData as { unit: { value: number } }).unit.value = deviation.most || 1;
    invalidate();
    return () => geometry.dispose();
  }, [material, geometry, deviation, invalidate]);
  return <mesh geometry={geometry} material={material} />;
}
