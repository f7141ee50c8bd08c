import { useFrame, useThree } from "@react-three/fiber";
import { type RefObject, useEffect, useMemo } from "react";
import * as THREE from "three";
import type { Skin } from "./skin";

const STEPS = [0.1, 0.2, 0.5, 1, 2, 5, 10, 20, 50, 100, 200, 500, 1000, 2000, 5000];
const BAR = 90;

/** The plate under the model: a grid whose cells are a round number of millimetres. */
export function Plate({ skin }: { skin: Skin }) {
  const grid = useMemo(() => {
    const size = skin.box.getSize(new THREE.Vector3());
    const across = Math.max(size.x, size.y) * 2.4;
    const cell = STEPS.find((step) => across / step < 26) ?? 10_000;
    const cells = Math.ceil(across / cell / 2) * 2;
    const made = new THREE.GridHelper(cells * cell, cells, "#8b9493", "#6b7475");
    made.rotation.x = Math.PI / 2;
    made.position.z = skin.box.min.z;
    const material = made.material;
    material.transparent = true;
    material.opacity = 0.55;
    material.depthWrite = false;
    return made;
  }, [skin]);
  useEffect(() => () => grid.dispose(), [grid]);
  return <primitive object={grid} />;
}

/** Keeps the scale bar true to what a millimetre measures at the middle of the view. */
export function ScaleDriver({ bar }: { bar: RefObject<HTMLDivElement | null> }) {
  const { camera, size, controls } = useThree();
  useFrame(() => {
    if (!bar.current) return;
    const target = (controls as { target?: THREE.Vector3 } | null)?.target ?? new THREE.Vector3();
    const distance = camera.position.distanceTo(target);
    const fov = THREE.MathUtils.degToRad((camera as THREE.PerspectiveCamera).fov);
    const perMm = size.height / (2 * distance * Math.tan(fov / 2));
    const step = STEPS.findLast((one) => one * perMm <= BAR) ?? STEPS[0]!;
    bar.current.style.width = `${step * perMm}px`;
    bar.current.dataset.mm = `${step} mm`;
  });
  return null;
}
