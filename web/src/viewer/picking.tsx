import { useThree } from "@react-three/fiber";
import { useEffect } from "react";
import * as THREE from "three";
import type { MeshBVH } from "three-mesh-bvh";
import type { LoadedSkin } from "./load-skin";
import { isHidden, shellAt, type Sight } from "./shells";
import type { Skin } from "./skin";

/** What lies under the pointer: a face, its shell, and the point in mm. */
export type Hit = { face: number; shell: number; at: THREE.Vector3; tree: MeshBVH };

const CLICK = 4;

/** The nearest face in sight along a ray. */
export function pick(skin: Skin, tree: MeshBVH, ray: THREE.Ray, sight: Sight): Hit | null {
  const all = !sight.hidden.size && sight.only === null;
  const first = all ? tree.raycastFirst(ray, THREE.DoubleSide) : null;
  const hits = all ? (first ? [first] : []) : tree.raycast(ray, THREE.DoubleSide);
  hits.sort((a, b) => a.distance - b.distance);
  for (const { faceIndex, point } of hits) {
    const face = faceIndex!;
    const shell = shellAt(skin.starts, face);
    if (!isHidden(sight, shell)) return { face, shell, at: point.clone().add(skin.middle), tree };
  }
  return null;
}

type Props = {
  skin: LoadedSkin;
  sight: Sight;
  onHover: (hit: Hit | null) => void;
  onPick: (hit: Hit | null) => void;
};

/** Tells what the pointer is over, once a frame at most, and what was clicked. */
export function Picking({ skin, sight, onHover, onPick }: Props) {
  const { gl, camera } = useThree();
  useEffect(() => {
    let tree: MeshBVH | null = null;
    let gone = false;
    let frame = 0;
    let down: [number, number] | null = null;
    const canvas = gl.domElement;
    void skin.tree.then((built) => {
      if (gone) return;
      tree = built;
      canvas.dataset.picking = "ready";
    });
    const under = (event: PointerEvent): Hit | null => {
      if (!tree) return null;
      const box = canvas.getBoundingClientRect();
      const at = new THREE.Vector2(
        ((event.clientX - box.left) / box.width) * 2 - 1,
        1 - ((event.clientY - box.top) / box.height) * 2,
      );
      const caster = new THREE.Raycaster();
      caster.setFromCamera(at, camera);
      return pick(skin, tree, caster.ray, sight);
    };
    const moved = (event: PointerEvent) => {
      cancelAnimationFrame(frame);
      if (event.buttons) return;
      frame = requestAnimationFrame(() => onHover(under(event)));
    };
    const left = () => {
      cancelAnimationFrame(frame);
      onHover(null);
    };
    const pressed = (event: PointerEvent) => {
      down = event.button === 0 ? [event.clientX, event.clientY] : null;
    };
    const released = (event: PointerEvent) => {
      if (!down || !tree) return;
      const far = Math.hypot(event.clientX - down[0], event.clientY - down[1]) > CLICK;
      down = null;
      if (!far) onPick(under(event));
    };
    canvas.addEventListener("pointermove", moved);
    canvas.addEventListener("pointerleave", left);
    canvas.addEventListener("pointerdown", pressed);
    canvas.addEventListener("pointerup", released);
    return () => {
      gone = true;
      cancelAnimationFrame(frame);
      delete canvas.dataset.picking;
      canvas.removeEventListener("pointermove", moved);
      canvas.removeEventListener("pointerleave", left);
      canvas.removeEventListener("pointerdown", pressed);
      canvas.removeEventListener("pointerup", released);
    };
  }, [skin, sight, gl, camera, onHover, onPick]);
  return null;
}
