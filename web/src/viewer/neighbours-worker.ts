import { neighboursOf } from "./neighbours";

self.onmessage = ({ data }: MessageEvent<{ positions: Float32Array; corners: Uint32Array }>) => {
  const made = neighboursOf(data.positions, data.corners);
  self.postMessage(made, {
    transfer: [made.twins, made.normals, made.areas].map((one) => one.buffer as ArrayBuffer),
  });
};
