import { useThree } from "@react-three/fiber";
import { useEffect, useMemo } from "react";
import * as THREE from "three";
import type { Skin } from "./skin";

/** A thing of known size: its kind and its length, mm; or a box of three sides round the model. */
export type Reference =
  | { kind: "cube" | "coin" | "hand"; size: number }
  | { kind: "machine"; sides: readonly [number, number, number] };

/** Thickness of a coin, of its width. */
const COIN = 0.08;
/** Thickness of a hand, of its length. */
const HAND = 0.12;

/** The outline of an open left hand seen on its back, one unit long from wrist to fingertip. */
const OUTLINE: readonly (readonly [number, number])[] = [
  [-0.14, 0],
  [-0.15, 0.16],
  [-0.22, 0.28],
  [-0.26, 0.5],
  [-0.26, 0.72],
  [-0.22, 0.78],
  [-0.18, 0.74],
  [-0.16, 0.55],
  [-0.13, 0.55],
  [-0.13, 0.88],
  [-0.09, 0.94],
  [-0.05, 0.89],
  [-0.04, 0.57],
  [-0.01, 0.57],
  [0.0, 0.94],
  [0.04, 1.0],
  [0.08, 0.94],
  [0.08, 0.57],
  [0.11, 0.56],
  [0.13, 0.86],
  [0.17, 0.92],
  [0.21, 0.86],
  [0.2, 0.52],
  [0.23, 0.42],
  [0.32, 0.56],
  [0.38, 0.58],
  [0.4, 0.52],
  [0.32, 0.34],
  [0.24, 0.2],
  [0.14, 0.12],
  [0.14, 0],
];

function solidOf(kind: "cube" | "coin" | "hand", size: number): THREE.BufferGeometry {
  if (kind === "cube") return new THREE.BoxGeometry(size, size, size).translate(0, 0, size / 2);
  if (kind === "coin") {
    const height = size * COIN;
    return new THREE.CylinderGeometry(size / 2, size / 2, height, 64)
      .rotateX(Math.PI / 2)
      .translate(0, 0, height / 2);
  }
  const shape = new THREE.Shape(OUTLINE.map(([x, y]) => new THREE.Vector2(x * size, y * size)));
  return new THREE.ExtrudeGeometry(shape, {
    depth: size * HAND,
    bevelEnabled: true,
    bevelSize: size * 0.012,
    bevelThickness: size * 0.02,
    bevelSegments: 2,
  }).translate(0, -size / 2, size * 0.02);
}

/** A thing of known size on the plate beside the model, or the volume of a machine round it. */
export function ReferenceThing({ skin, reference }: { skin: Skin; reference: Reference }) {
  const invalidate = useThree((state) => state.invalidate);
  const object = useMemo(() => {
    const { min, max } = skin.box;
    if (reference.kind === "machine") {
      const [x, y, z] = reference.sides;
      const box = new THREE.BoxGeometry(x, y, z);
      const made = new THREE.LineSegments(
        new THREE.EdgesGeometry(box),
        new THREE.LineBasicMaterial({ color: "#f2efe6", transparent: true, opacity: 0.8 }),
      );
      box.dispose();
      const middle = skin.box.getCenter(new THREE.Vector3());
      made.position.set(middle.x, middle.y, min.z + z / 2);
      return made;
    }
    const geometry = solidOf(reference.kind, reference.size);
    geometry.computeBoundingBox();
    const made = new THREE.Mesh(
      geometry,
      new THREE.MeshLambertMaterial({ color: "#8fa3a8", flatShading: true }),
    );
    const wide = geometry.boundingBox!;
    const room = Math.max((max.x - min.x) * 0.08, reference.size * 0.1);
    made.position.set(min.x - room - wide.max.x, (min.y + max.y) / 2, min.z);
    return made;
  }, [skin, reference]);
  useEffect(() => {
    invalidate();
    return () => {
      object.geometry.dispose();
      object.material.dispose();
      invalidate();
    };
  }, [object, invalidate]);
  return <primitive object={object} />;
}
