import { MeshBVH } from "three-mesh-bvh";
import { type Skin, skinOf } from "./skin";
import type { WorkerSays } from "./skin-worker";

/** A skin, and the tree for picking on it as soon as a worker has built that. */
export type LoadedSkin = Skin & { tree: Promise<MeshBVH> };

const startWorker = () =>
  new Worker(new URL("./skin-worker.ts", import.meta.url), { type: "module" });

/** One that has loaded its code by the time that a skin comes: a quarter of a second. */
let ready: Worker | null = null;

/** Have a worker ready for the next skin. */
export function expectSkin(): void {
  ready ??= startWorker();
}

/** Unpack a skin off the main thread. */
export function loadSkin(packed: ArrayBuffer, signal: AbortSignal): Promise<LoadedSkin> {
  const worker = ready ?? startWorker();
  ready = null;
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
