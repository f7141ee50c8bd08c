import * as THREE from "three";

/** Where a model is cut: what lies under the plane is away. Its own place, mm. */
export type CutPlane = { normal: readonly [number, number, number]; offset: number };

/**
 * The plane by which one view cuts its model. It moves without anything being rendered anew: those
 * who draw with it are told.
 */
export class Clip {
  /** From the middle of the skin. */
  readonly plane = new THREE.Plane(new THREE.Vector3(0, 0, 1), 0);
  /** The same, looking the other way: for what lies on the far side. */
  readonly back = new THREE.Plane(new THREE.Vector3(0, 0, -1), 0);
  readonly planes = [this.plane];
  readonly backs = [this.back];
  private readonly hearers = new Set<() => void>();
  private readonly middle: THREE.Vector3;

  constructor(middle: THREE.Vector3) {
    this.middle = middle;
  }

  set({ normal, offset }: CutPlane): void {
    this.plane.normal.set(...normal);
    this.plane.constant = this.plane.normal.dot(this.middle) - offset;
    this.back.copy(this.plane).negate();
    for (const hear of this.hearers) hear();
  }

  /** Hear when it moves; returns how to stop. */
  follow(hear: () => void): () => void {
    this.hearers.add(hear);
    return () => void this.hearers.delete(hear);
  }
}
