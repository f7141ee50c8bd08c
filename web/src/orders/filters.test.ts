import { describe, expect, it } from "vitest";
import { item, job, segment } from "../tests/makers";
import { LISTS, nextWord } from "./filters";

const leaking = item({
  ready: false,
  seam: [segment("closed", "leaks", "2 holes"), segment("release", "not run", "waits")],
});
const asking = item({
  ready: false,
  seam: [segment("size", "your call", "5.9 mm?"), segment("release", "not run", "waits")],
});
const unreadable = item({
  problem: "The file is empty.",
  triangles: null,
  seam: [],
  ready: false,
});
const running = item({ job: job("running", { step: "Walking the edges", fraction: 0.644 }) });
const waiting = item({ job: job("waiting"), triangles: null, seam: [], ready: false });
const released = item({
  ready: false,
  released: "2026-11-25T10:00:00Z",
  seam: [segment("release", "tight", "released as STL")],
});
const ready = item();

describe("the lists of the rail", () => {
  it.each([
    ["you", [asking, unreadable]],
    ["leaks", [leaking]],
    ["running", [running, waiting]],
    ["ready", [ready, running]],
    ["released", [released]],
  ])("%s", (key, expected) => {
    const list = LISTS.find((one) => one.key === key)!;
    const all = [leaking, asking, unreadable, ready, running, waiting, released];
    expect(all.filter(list.holds)).toEqual(all.filter((one) => expected.includes(one)));
  });
});

describe("what is next", () => {
  it.each([
    [leaking, "2 holes"],
    [asking, "5.9 mm?"],
    [unreadable, "The file is empty."],
    [running, "Walking the edges, 64 %"],
    [waiting, "waits its turn"],
    [released, "released"],
    [ready, "tight, ready to release"],
    [
      item({
        seam: [segment("walls", "tight", "held 0.80 of 0.70 mm"), segment("release", "not run")],
      }),
      "ready to release; held 0.80 of 0.70 mm",
    ],
    [
      item({ seam: [segment("walls", "not run", "being judged"), segment("release", "not run")] }),
      "being judged",
    ],
    [item({ set_aside: true }), "set aside"],
    [item({ triangles: null, seam: [] }), "not examined"],
    [item({ job: job("done") }), "tight, ready to release"],
  ])("%#", (one, words) => expect(nextWord(one)).toBe(words));
});
