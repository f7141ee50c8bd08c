import { MeshBVH } from "three-mesh-bvh";
import { type Skin, skinOf } from "./skin";
import type { WorkerSays } from "./skin-worker";

/** A skin, and the tree for picking on it as soon as a worker has built that. */
export type LoadedSkin = Skin & { tree: Promise<MeshBVH> };

/** Unpack a skin off the main thread. */
export function loadSkin(packed: ArrayBuffer, signal: AbortSignal): Promise<LoadedSkin> {
  const worker = new Worker(new URL("./skin-worker.ts", import.meta.url), { type: "module" });
  const stop = () => worker.terminate();
  signal.addEventListener("abort", stop);
  return new Promise((resolve, reject) => {
    let skin: Skin | null = null;
    let built: (tree: MeshBVH) => void = () => undefined;
    worker.onerror = () => reject(new Error("The mesh could not be unpacked; reload the page."));
    worker.onmessage = ({ data }: MessageEvent<WorkerSays>) => {
      if ("problem" in data) {
        stop();
        reject(new Error(data.problem));
      } else if ("arrays" in data) {
        skin = skinOf(data.arrays);
        resolve({ ...skin, tree: new Promise((done) => (built = done)) });
      } else {
        stop();
        signal.removeEventListener("abort", stop);
        built(MeshBVH.deserialize(data.tree, skin!.geometry, { setIndex: false }));
      }
    };
    worker.postMessage(packed, [packed]);
  });
}
