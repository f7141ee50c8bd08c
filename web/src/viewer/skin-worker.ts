import * as THREE from "three";
import { MeshBVH, type SerializedBVH } from "three-mesh-bvh";
import { type SkinArrays, unpackSkin } from "./skin";

/** What the worker says: the arrays first, the tree for picking when it is built. */
export type WorkerSays = { arrays: SkinArrays } | { tree: SerializedBVH } | { problem: string };

const say = (what: WorkerSays, transfer: Transferable[]) => self.postMessage(what, { transfer });

self.onmessage = ({ data }: MessageEvent<ArrayBuffer>) => {
  try {
    const arrays = unpackSkin(data);
    const positions = arrays.positions.slice();
    const corners = arrays.corners.slice();
    const sent = [arrays, ...(arrays.coarse ? [arrays.coarse] : [])];
    say(
      { arrays },
      [arrays.positions, ...sent.flatMap((one) => [one.corners, one.starts])].map(
        (one) => one.buffer as ArrayBuffer,
      ),
    );
    const geometry = new THREE.BufferGeometry();
    geometry.setAttribute("position", new THREE.BufferAttribute(positions, 3));
    geometry.setIndex(new THREE.BufferAttribute(corners, 1));
    // indirect: the faces keep their order, which tells their shell
    const tree = MeshBVH.serialize(new MeshBVH(geometry, { indirect: true }), {
      cloneBuffers: false,
    });
    tree.index = null;
    say({ tree }, [...tree.roots, tree.indirectBuffer!.buffer as ArrayBuffer]);
  } catch (problem) {
    say({ problem: (problem as Error).message }, []);
  }
};
