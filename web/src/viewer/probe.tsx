import { useThree } from "@react-three/fiber";
import { useEffect, useMemo } from "react";
import * as THREE from "three";
import type { MeshBVH } from "three-mesh-bvh";
import type { Hit } from "./picking";
import { type Skin, triangleOf } from "./skin";
import { DEEP, sampleAt, type Soundings } from "./soundings";

/** A point of the skin whose thickness was asked for; lengths in mm. */
export type Probe = {
  at: THREE.Vector3;
  normal: THREE.Vector3;
  /** Null where walls have not been sounded. */
  ball: number | null;
  ray: number;
  most: number;
  tree: MeshBVH;
};

/** The probe where a ray hit the skin; the ball is known where walls have been sounded. */
export function probeAt(skin: Skin, soundings: Soundings | null, hit: Hit): Probe {
  const local = hit.at.clone().sub(skin.middle);
  if (!soundings) {
    const normal = triangleOf(skin, hit.face).getNormal(new THREE.Vector3());
    const way = normal.clone().negate();
    const found = hit.tree.raycastFirst(
      new THREE.Ray(local.clone().addScaledVector(way, HAIR), way),
      THREE.DoubleSide,
    );
    const ray = found ? found.distance + HAIR : DEEP;
    const most = skin.box.getSize(new THREE.Vector3()).length();
    return { at: hit.at, normal, ball: null, ray, most, tree: hit.tree };
  }
  const sample = sampleAt(skin, soundings, hit.face, local);
  return {
    at: hit.at,
    normal: triangleOf(skin, hit.face).getNormal(new THREE.Vector3()),
    ball: soundings.ball[sample]!,
    ray: soundings.ray[sample]!,
    most: soundings.most,
    tree: hit.tree,
  };
}

/** A ray begins so far under the face that it goes in at, mm. */
const HAIR = 1e-4;

/** The thickness where the pointer is, both ways of measuring it. */
export function depthText(skin: Skin, soundings: Soundings, hit: Hit): string {
  const sample = sampleAt(skin, soundings, hit.face, hit.at.clone().sub(skin.middle));
  const told = (mm: number) => (mm === DEEP ? `over ${soundings.most.toFixed(1)}` : mm.toFixed(2));
  return `ball ${told(soundings.ball[sample]!)}, ray ${told(soundings.ray[sample]!)} mm`;
}

/** Where a probe went in, and where it came out: seen through the model. */
export function ProbeLine({ skin, probe }: { skin: Skin; probe: Probe }) {
  const invalidate = useThree((state) => state.invalidate);
  const line = useMemo(() => {
    const from = probe.at.clone().sub(skin.middle);
    const to = from.clone().addScaledVector(probe.normal, -Math.min(probe.ray, probe.most));
    const made = new THREE.Line(
      new THREE.BufferGeometry().setFromPoints([from, to]),
      new THREE.LineBasicMaterial({ color: "#f2efe6", depthTest: false, transparent: true }),
    );
    made.renderOrder = 4;
    return made;
  }, [skin, probe]);
  useEffect(() => {
    invalidate();
    return () => {
      line.geometry.dispose();
      line.material.dispose();
      invalidate();
    };
  }, [line, invalidate]);
  return <primitive object={line} />;
}
