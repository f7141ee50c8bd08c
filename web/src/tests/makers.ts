/** Makers for tests of the front end. */

import type {
  Cover,
  Finding,
  Item,
  ItemLine,
  Job,
  Person,
  Piece,
  Question,
  Revision,
  RuleSheet,
  Segment,
  Spot,
} from "../api/client";

export const spot = (title: string, count = 1): Spot => ({
  title,
  measure: "1.0 mm across",
  count,
  box: [
    [0, 0, 0],
    [1, 1, 1],
  ],
  at: [0, 0, 0],
  facing: [0, 0, 1],
  thickness_mm: null,
  limit_mm: null,
  adds_mm3: null,
  shift_mm: null,
  area_mm2: null,
  stands_for: 1,
  pieces: [],
});

export const finding = (
  kind: string,
  severity: Finding["severity"],
  ...titles: string[]
): Finding => ({
  kind,
  severity,
  count: titles.length,
  places: titles.length,
  text: `${kind}.`,
  spots: titles.map((title) => spot(title)),
});

export const piece = (shell: number, part: Partial<Piece> = {}): Piece => ({
  shell,
  number: shell + 1,
  name: "",
  what: "outer skin",
  within: -1,
  triangles: 12,
  volume_mm3: 1000,
  sides_mm: [10, 10, 10],
  longest_mm: 10,
  ...part,
});

export const revision = (...findings: Finding[]): Revision => ({
  id: 7,
  number: 0,
  parent: null,
  operation: "receive",
  title: "as received",
  name: "",
  note: "",
  tight: findings.every((f) => f.severity !== "leak"),
  examination: 70,
  summary: "12 triangles",
  made_by: "Maren Aas",
  made: "2026-11-25T09:00:00Z",
  unit: { unit: "mm", source: "guessed", reason: "", doubtful: false, others: [] },
  account: null,
  steps: [],
  left: [],
  sounded: false,
  sheet: null,
  parameters: {},
  report: {
    unit: "mm",
    unit_source: "guessed",
    unit_reason: "10 long reads well as millimetres.",
    triangles: 12,
    vertices: 8,
    smallest_mm: null,
    margin_deg: 45,
    size_mm: [10, 10, 10],
    volume_mm3: 1000,
    area_mm2: 600,
    shells: 1,
    pieces: [piece(0)],
    tight: true,
    questions: ["size", "closed", "solid", "inside", "walls"],
    unasked: [],
    could_miss_mm: null,
    verdicts: [],
    thinnest: [],
    seconds: 0.12,
    findings,
  },
});

/** Somebody who is logged in. */
export const person = (part: Partial<Person> = {}): Person => ({
  username: "maren",
  name: "Maren Aas",
  lead: false,
  may_change: true,
  ...part,
});

/** A page of the list, as the server answers it. */
export const page = (...results: ItemLine[]) => ({
  count: results.length,
  next: null,
  previous: null,
  results,
});

/** An item as the bench has it. */
export const full = (part: Partial<Item> = {}): Item => ({
  ...item(),
  comments: [],
  moved_by: "Maren Aas",
  revisions: [],
  decisions: [],
  covered: [],
  apart: [],
  piece_names: {},
  letters: [],
  releases: [],
  ...part,
});

/** A place that somebody accepted. */
export const cover = (part: Partial<Cover> = {}): Cover => ({
  kind: "thin-walls",
  place: 1,
  decision: 5,
  index: 0,
  reason: "wanted so",
  by: "Odd Ness",
  at: "2026-11-25T09:00:00Z",
  ...part,
});

export const rules = (): RuleSheet => ({
  key: "nylon",
  name: "Nylon",
  process: "Sintering",
  wall_supported: 0.7,
  wall_free: 0.9,
  wire_supported: 0.8,
  wire_free: 1,
  engraved: 0.3,
  embossed: 0.3,
  clearance: 0.4,
  drain_hole: 3,
  drain_holes: 1.8,
  smallest: 5,
  largest: [330, 330, 560],
  must_drain: true,
  density_g_cm3: 1.01,
  price_per_cm3: 0.42,
  price_per_part: 2.8,
  tolerance: 0.25,
});

export const question = (key: string, ...kinds: [string, string, string][]): Question => ({
  key,
  title: key,
  asks: "",
  kinds: kinds.map(([kind, one, many]) => ({ kind, one, many })),
});

export const job = (state: Job["state"], part: Partial<Job> = {}): Job => ({
  id: 1,
  item: 1,
  item_name: "Cleat",
  kind: "mend",
  title: "mended",
  by: "Maren Aas",
  state,
  step: "",
  fraction: 0,
  message: "",
  created: "2026-11-25T09:00:00Z",
  started: null,
  finished: null,
  ...part,
});

export const segment = (question: string, state: Segment["state"], text = ""): Segment => ({
  question,
  title: question,
  state,
  text,
});

export const item = (part: Partial<ItemLine> = {}): ItemLine => ({
  id: 1,
  name: "Cleat",
  note: "",
  file_name: "cleat.stl",
  received_bytes: 684,
  created: "2026-11-25T09:00:00Z",
  current: 7,
  assignee: "",
  assignee_name: "",
  next: "tight, ready to release",
  problem: "",
  material: 1,
  material_name: "Nylon",
  quantity: 1,
  triangles: 12,
  seam: [
    segment("size", "tight"),
    segment("closed", "tight"),
    segment("release", "not run", "ready"),
  ],
  job: null,
  judging: null,
  set_aside: false,
  ready: true,
  released: null,
  order: {
    id: 1,
    number: "0418",
    customer: 1,
    customer_name: "Oakum Yard",
    // by the clock of `clock.ts`, in whatever zone
    due: new Date(2026, 10, 26, 16).toISOString(),
    received: "2026-11-25T09:00:00Z",
    note: "",
  },
  ...part,
});
