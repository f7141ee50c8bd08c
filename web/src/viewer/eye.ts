import type * as THREE from "three";

/** The camera and canvas of the main view, for what stands outside it. */
export const EYE: { camera: THREE.Camera | null; canvas: HTMLCanvasElement | null } = {
  camera: null,
  canvas: null,
};
