import { expect, it } from "vitest";
import { MAX_BYTES, nameTogether, refusal, refusalTogether, useUploads } from "./upload";

const file = (name: string, size: number): File => {
  const made = new File(["x"], name);
  Object.defineProperty(made, "size", { value: size });
  return made;
};

it.each([
  ["part.stl", 10, ""],
  ["PART.STL", 10, ""],
  ["part.3mf", 10, ""],
  ["part.off", MAX_BYTES, ""],
  ["part.doc", 10, "Only STL"],
  ["stl", 10, "Only STL"],
  ["part.obj", 0, "empty"],
  ["part.ply", MAX_BYTES + 1, "limit is 500 MB"],
])("%s of %d bytes", (name, size, word) => {
  const told = refusal(file(name, size));
  if (word) expect(told).toContain(word);
  else expect(told).toBe("");
});

it.each([
  [["crane_arm.stl", "crane_hook.stl"], "Crane"],
  [["Harbour crane arm.stl", "Harbour crane foot.obj", "Harbour crane.ply"], "Harbour crane"],
  [["lid.stl", "box.stl", "pin.stl"], "Lid and 2 more"],
  [["lid.stl", "lid.obj"], "Lid"],
])("calls %j together %s", (names, called) => {
  expect(nameTogether(names.map((name) => file(name, 10)))).toBe(called);
});

it.each([
  [[file("a.stl", 10), file("b.3mf", 10)], ""],
  [[file("a.stl", 10), file("b.doc", 10)], "Leave out"],
  [[file("a.stl", 10), file("b.zip", 10)], "archive"],
  [[file("a.stl", MAX_BYTES - 5), file("b.stl", MAX_BYTES)], "limit is 500 MB"],
])("files that are to be one item (%#)", (files, word) => {
  const told = refusalTogether(files);
  if (word) expect(told).toContain(word);
  else expect(told).toBe("");
});

it("puts away what has ended and keeps what goes on", () => {
  const upload = { name: "a.stl", fraction: 0, problem: "", item: null };
  const { add, change, clear } = useUploads.getState();
  add([
    { ...upload, key: 1, state: "sending" },
    { ...upload, key: 2, state: "waiting" },
  ]);
  change(1, { state: "arrived", item: 5 });
  expect(useUploads.getState().uploads.map((one) => one.state)).toEqual(["arrived", "waiting"]);
  clear();
  expect(useUploads.getState().uploads.map((one) => one.key)).toEqual([2]);
});
