import { useThree } from "@react-three/fiber";
import { useEffect, useMemo } from "react";
import * as THREE from "three";
import { LineMaterial } from "three/examples/jsm/lines/LineMaterial.js";
import { LineSegments2 } from "three/examples/jsm/lines/LineSegments2.js";
import { LineSegmentsGeometry } from "three/examples/jsm/lines/LineSegmentsGeometry.js";
import { hatchMaterial } from "./materials";
import { linesOf, type Marks, patchOf, type Skin } from "./skin";

const CHALK = "#f2efe6";
const NO_FACES = new Float32Array(0);

function lines(points: Float32Array, width: number, through: boolean): LineSegments2 {
  const geometry = new LineSegmentsGeometry();
  geometry.setPositions(points);
  const material = new LineMaterial({
    color: CHALK,
    linewidth: width,
    transparent: true,
    opacity: through ? 0.4 : 1,
    depthTest: !through,
    depthWrite: false,
  });
  const object = new LineSegments2(geometry, material);
  object.renderOrder = through ? 2 : 3;
  object.frustumCulled = false;
  return object;
}

function patch(points: Float32Array, opacity: number): THREE.Mesh {
  const geometry = new THREE.BufferGeometry();
  geometry.setAttribute("position", new THREE.BufferAttribute(points, 3));
  const object = new THREE.Mesh(geometry, hatchMaterial(opacity));
  object.renderOrder = 2;
  return object;
}

type Props = {
  skin: Skin;
  marks: Marks;
  places: readonly number[];
  chosen: number | null;
  /** Lines only, so that what is drawn on the faces stays in sight. */
  bare: boolean;
};

/** Rims and patches of the findings, merged into a few objects however many there are. */
export function MarksInView({ skin, marks, places, chosen, bare }: Props) {
  const invalidate = useThree((state) => state.invalidate);
  const group = useMemo(() => {
    const made = new THREE.Group();
    const all = linesOf(marks, places);
    if (all.length) made.add(lines(all, 2, false), lines(all, 1.2, true));
    const faces = bare ? NO_FACES : patchOf(skin, marks, places);
    if (faces.length) made.add(patch(faces, 0.28));
    return made;
  }, [skin, marks, places, bare]);
  const picked = useMemo(() => {
    const made = new THREE.Group();
    if (chosen === null) return made;
    const rim = linesOf(marks, [chosen]);
    if (rim.length) made.add(lines(rim, 4, false), lines(rim, 3, true));
    const faces = bare ? NO_FACES : patchOf(skin, marks, [chosen]);
    if (faces.length) made.add(patch(faces, 0.85));
    return made;
  }, [skin, marks, chosen, bare]);
  useEffect(() => {
    invalidate();
    return () => dispose(group);
  }, [group, invalidate]);
  useEffect(() => {
    invalidate();
    return () => dispose(picked);
  }, [picked, invalidate]);
  return (
    <>
      <primitive object={group} />
      <primitive object={picked} />
    </>
  );
}

function dispose(group: THREE.Group) {
  for (const child of group.children) {
    if (child instanceof THREE.Mesh) {
      (child.geometry as THREE.BufferGeometry).dispose();
      (child.material as THREE.Material).dispose();
    }
  }
}
