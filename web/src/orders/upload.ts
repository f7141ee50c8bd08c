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
export const ENDINGS = [".stl", ".obj", ".ply", ".3mf", ".off", ".zip"];
/** As many files may come in as one item. */
export const MOST_TOGETHER = 1000;

/** Why a file need not even be sent; empty when it may be. */
export function refusal(file: File): string {
  const name = file.name.toLowerCase();
  if (!ENDINGS.some((ending) => name.endsWith(ending)))
    return "Only STL, OBJ, PLY, 3MF, OFF and ZIP are read here.";
  if (file.size === 0) return "The file is empty (0 bytes).";
  if (file.size > MAX_BYTES)
    return `The file has ${Math.round(file.size / 1e6)} MB; the limit is 500 MB.`;
  return "";
}

/** Why files cannot come in as one item; empty when they can. */
export function refusalTogether(files: readonly File[]): string {
  if (files.some(refusal)) return "Leave out what cannot be read; then they can be one item.";
  if (files.some((file) => file.name.toLowerCase().endsWith(".zip")))
    return "An archive is an item of its own.";
  if (files.length > MOST_TOGETHER) return `One item takes ${MOST_TOGETHER} files at most.`;
  const total = files.reduce((sum, file) => sum + file.size, 0);
  if (total > MAX_BYTES)
    return `Together they have ${Math.round(total / 1e6)} MB; the limit is 500 MB.`;
  return "";
}

/** What files that become one item are called if nobody says so: by what their names share. */
export function nameTogether(files: readonly File[]): string {
  const stems = files.map((file) =>
    file.name
      .replace(/\.[^.]*$/, "")
      .split(/[\s_-]+/)
      .filter(Boolean),
  );
  const first = stems[0] ?? [];
  const apart = first.findIndex((word, i) => stems.some((words) => words[i] !== word));
  const shared = (apart < 0 ? first : first.slice(0, apart)).join(" ");
  const called = shared || `${first.join(" ")} and ${files.length - 1} more`;
  return (called.charAt(0).toUpperCase() + called.slice(1)).slice(0, 120);
}

let keys = 0;

/** What files become of, and how many of each. */
export type Wanted = { order: number; material: string; quantity: number };

/** Send files to an order one after the other; progress and refusals go into the store. */
export async function sendAll(wanted: Wanted, files: readonly File[]) {
  await sendEach(
    wanted,
    files.map((file) => ({ name: file.name, files: [file], problem: refusal(file) })),
  );
}

/** Send files that are to be one item, each at its place. */
export async function sendTogether(wanted: Wanted, files: readonly File[], name: string) {
  await sendEach(wanted, [{ name, files, problem: refusalTogether(files), called: name }]);
}

type Parcel = { name: string; files: readonly File[]; problem: string; called?: string };

async function sendEach(wanted: Wanted, parcels: readonly Parcel[]) {
  const { add, change } = useUploads.getState();
  const queued = parcels.map((parcel) => ({ ...parcel, key: ++keys }));
  add(
    queued.map(({ name, key }) => ({
      key,
      name,
      fraction: 0,
      state: "waiting" as const,
      problem: "",
      item: null,
    })),
  );
  for (const { key, problem, ...parcel } of queued) {
    if (problem) {
      change(key, { state: "refused", problem });
      continue;
    }
    change(key, { state: "sending" });
    try {
      const item = await send(wanted, parcel, (fraction) => change(key, { fraction }));
      change(key, { state: "arrived", fraction: 1, item });
    } catch (reason) {
      change(key, { state: "refused", problem: (reason as Error).message });
    }
    for (const key of ["items", "counts"]) void client.invalidateQueries({ queryKey: [key] });
  }
}

/** Files of one item by XMLHttpRequest, which tells how much has gone out; `fetch` does not. */
function send(
  { order, material, quantity }: Wanted,
  { files, called }: Pick<Parcel, "files" | "called">,
  onProgress: (fraction: number) => void,
): Promise<number> {
  return new Promise((resolve, reject) => {
    const form = new FormData();
    form.append("material", material);
    form.append("quantity", String(quantity));
    if (called) form.append("name", called);
    for (const file of files) form.append("file", file);
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
