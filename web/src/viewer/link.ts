import * as THREE from "three";

/** Where a camera stands and looks to, mm. */
export type Stand = { eye: THREE.Vector3; target: THREE.Vector3 };

/** Two views that are looked at from the same place: the one leads, the other follows. */
export class Link {
  private followers = new Set<(stand: Stand) => void>();
  stand: Stand | null = null;

  lead(stand: Stand): void {
    this.stand = stand;
    for (const follow of this.followers) follow(stand);
  }

  /** Hear where the leading camera goes, beginning with where it is; returns how to stop. */
  follow(hear: (stand: Stand) => void): () => void {
    this.followers.add(hear);
    if (this.stand) hear(this.stand);
    return () => void this.followers.delete(hear);
  }
}
