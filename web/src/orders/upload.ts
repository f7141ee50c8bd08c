import { create } from "zustand";
import { csrfToken, sentenceOf } from "../api/client";
import { client } from "../api/queries";

export type Upload = {
  key: number;
  name: string;
  fraction: number;
  state: "waiting" | "sending" | "arrived" | "refused";
  problem: string;
  item: number | null;
};

type Store = {
  uploads: Upload[];
  change: (key: number, part: Partial<Upload>) => void;
  add: (uploads: Upload[]) => void;
  clear: () => void;
};

export const useUploads = create<Store>((set) => ({
  uploads: [],
  change: (key, part) =>
    set(({ uploads }) => ({
      uploads: uploads.map((one) => (one.key === key ? { ...one, ...part } : one)),
    })),
  add: (more) => set(({ uploads }) => ({ uploads: [...uploads, ...more] })),
  clear: () =>
    set(({ uploads }) => ({
      uploads: uploads.filter((one) => one.state === "waiting" || one.state === "sending"),
    })),
}));

export const MAX_BYTES = 500_000_000;
export const ENDINGS = [".stl", ".obj", ".ply", ".3mf", ".off"];

/** Why a file need not even be sent; empty when it may be. */
export function refusal(file: File): string {
  const name = file.name.toLowerCase();
  if (!ENDINGS.some((ending) => name.endsWith(ending)))
    return "Only STL, OBJ, PLY, 3MF and OFF are read here.";
  if (file.size === 0) return "The file is empty (0 bytes).";
  if (file.size > MAX_BYTES)
    return `The file has ${Math.round(file.size / 1e6)} MB; the limit is 500 MB.`;
  return "";
}

let keys = 0;

/** Send files to an order one after the other; progress and refusals go into the store. */
export async function sendAll(order: number, files: File[], material: string, quantity: number) {
  const { add, change } = useUploads.getState();
  const queued = files.map((file) => ({ file, key: ++keys }));
  add(
    queued.map(({ file, key }) => ({
      key,
      name: file.name,
      fraction: 0,
      state: "waiting" as const,
      problem: "",
      item: null,
    })),
  );
  for (const { file, key } of queued) {
    const problem = refusal(file);
    if (problem) {
      change(key, { state: "refused", problem });
      continue;
    }
    change(key, { state: "sending" });
    try {
      const item = await send(order, file, material, quantity, (fraction) =>
        change(key, { fraction }),
      );
      change(key, { state: "arrived", fraction: 1, item });
    } catch (reason) {
      change(key, { state: "refused", problem: (reason as Error).message });
    }
    for (const key of ["items", "counts"]) void client.invalidateQueries({ queryKey: [key] });
  }
}

/** One file by XMLHttpRequest, which tells how much has gone out; `fetch` does not. */
function send(
  order: number,
  file: File,
  material: string,
  quantity: number,
  onProgress: (fraction: number) => void,
): Promise<number> {
  return new Promise((resolve, reject) => {
    const form = new FormData();
    form.append("material", material);
    form.append("quantity", String(quantity));
    form.append("file", file);
    const request = new XMLHttpRequest();
    request.open("POST", `/api/orders/${order}/items`);
    request.setRequestHeader("X-CSRFToken", csrfToken());
    request.upload.onprogress = (event) => onProgress(event.loaded / event.total);
    request.onerror = () => reject(new Error("The connection broke; the file was not stored."));
    request.onload = () => {
      let body: unknown = null;
      try {
        body = JSON.parse(request.responseText);
      } catch {
        // not ours; the status says enough
      }
      if (request.status === 201) resolve((body as { id: number }).id);
      else reject(new Error(sentenceOf(body, request.status)));
    };
    request.send(form);
  });
}
