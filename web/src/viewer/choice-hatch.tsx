import { useThree } from "@react-three/fiber";
import { useEffect, useMemo } from "react";
import * as THREE from "three";
import { type Choice, cornersOfChoice } from "./choice";
import type { Clip } from "./clip";
import { hatchMaterial } from "./materials";
import type { Skin } from "./skin";

/** The chosen faces, in chalk hatching. */
export function ChoiceHatch(props: { skin: Skin; faces: Choice; clip: Clip | null }) {
  const { skin, faces, clip } = props;
  const invalidate = useThree((state) => state.invalidate);
  const mesh = useMemo(() => {
    const geometry = new THREE.BufferGeometry();
    geometry.setAttribute("position", skin.geometry.getAttribute("position"));
    geometry.boundingSphere = skin.geometry.boundingSphere;
    const made = new THREE.Mesh(geometry, hatchMaterial(0.8));
    made.renderOrder = 3;
    return made;
  }, [skin]);
  useEffect(() => {
    // an index of another length needs a buffer of its own on the graphics card
    mesh.geometry.dispose();
    mesh.geometry.setIndex(new THREE.BufferAttribute(cornersOfChoice(skin, faces), 1));
    mesh.material.clippingPlanes = clip ? clip.planes : null;
    invalidate();
  }, [mesh, skin, faces, clip, invalidate]);
  useEffect(
    () => () => {
      mesh.geometry.dispose();
      mesh.material.dispose();
      invalidate();
    },
    [mesh, invalidate],
  );
  return <primitive object={mesh} />;
}
