import { create } from "zustand";
import type { Direction, Flight } from "../viewer/rig";
import type { Probe } from "../viewer/probe";
import { ALL_LISTED, type Listing } from "./rows";
import { ALL_SHOWN, type Sight } from "../viewer/shells";
import type { Looks } from "../viewer/viewer";

/** How the bench looks at its item, and what changes that. */
export type BenchStore = {
  /** Open question of the seam; null until the first one that needs work is known. */
  question: string | null;
  /** Number of the chosen row of the ledger. */
  chosen: number | null;
  /** Revision looked at, when it is not the current one. */
  viewing: number | null;
  looks: Looks;
  /** Shells out of sight. */
  sight: Sight;
  /** How far pieces are pulled apart to look between them: 1 doubles how far they are off. */
  spread: number;
  /** The chosen piece, by the number of its shell. */
  piece: number | null;
  /** Whether it is being decided that the chosen piece stays apart, or does no more. */
  parting: boolean;
  /** What of the ledger is listed, and the numbers of the rows that are taken together. */
  listing: Listing;
  taken: ReadonlySet<number>;
  /** Whether it is asked if the item is to leave. */
  asking: boolean;
  /** Whether what has left already is to leave once more, in another format or with another letter. */
  again: boolean;
  /** The revision that held when this page last followed the item; others may move it on. */
  held: number | null;
  flight: Flight;
  /** Whether what changed is drawn; since which revision, the one it was made of if none. */
  changes: boolean;
  since: number | null;
  /** The revision drawn beside the one shown. */
  beside: number | null;
  /** The revision whose account is unrolled. */
  account: number | null;
  /** Whether revisions are held against each other in numbers. */
  numbers: boolean;
  /** Whether the depths are drawn while walls are looked at; the limit tried out; the probe. */
  charted: boolean;
  limit: number | null;
  probe: Probe | null;
  /** Whether all materials are listed instead of the thin places. */
  suits: boolean;
  /** Whether the model is worked on at large instead of its findings; the region picked for it. */
  rework: boolean;
  region: Region;
  open: (question: string) => void;
  choose: (number: number | null) => void;
  view: (revision: number | null) => void;
  pull: (spread: number) => void;
  toggle: (look: keyof Looks) => void;
  look: (to: Direction | "whole") => void;
  /** Look from so many degrees round from the front and up, or turn by so many. */
  lookFrom: (round: number, up: number) => void;
  turnBy: (round: number, up: number) => void;
  choosePiece: (shell: number | null) => void;
  hide: (shell: number) => void;
  /** All but one out of sight; the same again brings them back. */
  showOnly: (shell: number) => void;
  /** Some out of sight, all others in it. */
  hideAll: (shells: Iterable<number>) => void;
  showAll: () => void;
  part: (parting: boolean) => void;
  list: (change: Partial<Listing>) => void;
  /** Take a row, or let go of it; or just these. */
  takeRow: (number: number) => void;
  takeRows: (numbers: Iterable<number>) => void;
  ask: (asking: boolean) => void;
  releaseAgain: (again: boolean) => void;
  /** Go along with the revision that holds now. */
  follow: (revision: number | null) => void;
  goTo: (box: [number[], number[]], facing: number[]) => void;
  showChanges: () => void;
  /** Draw what changed since a revision. */
  changedSince: (revision: number) => void;
  setBeside: (revision: number | null) => void;
  unroll: (revision: number | null) => void;
  compareNumbers: (numbers: boolean) => void;
  chart: () => void;
  tryLimit: (limit: number) => void;
  setProbe: (probe: Probe | null) => void;
  listSuits: (suits: boolean) => void;
  setRework: (rework: boolean) => void;
  setRegion: (change: Partial<Region>) => void;
  reset: () => void;
};

/** Points picked on the model, mm, and how far round each; none means the whole. */
export type Region = { picking: boolean; points: readonly (readonly number[])[]; reach: number };

const NOTHING_PICKED = { picking: false, points: [] };
const NO_REGION: Region = { ...NOTHING_PICKED, reach: 0 };

const start = {
  question: null,
  chosen: null,
  viewing: null,
  looks: {
    seeThrough: false,
    triangles: false,
    insideMarked: true,
    tinted: true,
    parallel: false,
  },
  sight: ALL_SHOWN,
  spread: 0,
  piece: null,
  parting: false,
  listing: ALL_LISTED,
  taken: new Set<number>(),
  asking: false,
  again: false,
  held: null,
  changes: false,
  since: null,
  beside: null,
  account: null,
  numbers: false,
  charted: true,
  limit: null,
  probe: null,
  suits: false,
  rework: false,
  region: NO_REGION,
};

/** What lies inside is looked at through the skin; leaving the question closes it again. */
function open(
  question: string,
  { question: before, looks, region }: BenchStore,
): Partial<BenchStore> {
  const through = question === "inside" || (before !== "inside" && looks.seeThrough);
  return {
    question,
    chosen: null,
    listing: ALL_LISTED,
    taken: new Set(),
    probe: null,
    suits: false,
    rework: false,
    region: { ...region, ...NOTHING_PICKED },
    looks: { ...looks, seeThrough: through },
  };
}

/** How the bench looks at its item; nothing here is stored. */
export const useBench = create<BenchStore>((set) => ({
  ...start,
  flight: { turn: 0, to: "whole" },
  open: (question) => set((store) => open(question, store)),
  choose: (chosen) => set({ chosen, limit: null }),
  view: (viewing) =>
    set(({ region }) => ({
      viewing,
      chosen: null,
      taken: new Set(),
      sight: ALL_SHOWN,
      piece: null,
      probe: null,
      region: { ...region, points: [] },
    })),
  choosePiece: (piece) => set({ piece, parting: false }),
  hide: (shell) =>
    set(({ sight }) => {
      const hidden = new Set(sight.hidden);
      if (!hidden.delete(shell)) hidden.add(shell);
      return { sight: { hidden, only: null } };
    }),
  showOnly: (shell) =>
    set(({ sight }) => ({
      sight: sight.only === shell ? { ...sight, only: null } : { ...sight, only: shell },
    })),
  hideAll: (shells) => set({ sight: { hidden: new Set(shells), only: null } }),
  showAll: () => set({ sight: ALL_SHOWN }),
  part: (parting) => set({ parting }),
  list: (change) => set(({ listing }) => ({ listing: { ...listing, ...change } })),
  takeRow: (number) =>
    set(({ taken }) => {
      const next = new Set(taken);
      if (!next.delete(number)) next.add(number);
      return { taken: next };
    }),
  takeRows: (numbers) => set({ taken: new Set(numbers) }),
  ask: (asking) => set({ asking }),
  releaseAgain: (again) => set({ again }),
  follow: (held) =>
    set((store) =>
      // what the address asked for is of the first revision that this page goes along with
      store.held === null
        ? { held }
        : { held, chosen: null, taken: new Set(), piece: null, probe: null, spread: 0 },
    ),
  pull: (spread) => set({ spread }),
  toggle: (look) => set(({ looks }) => ({ looks: { ...looks, [look]: !looks[look] } })),
  look: (to) => set(({ flight }) => ({ flight: { turn: flight.turn + 1, to } })),
  lookFrom: (round, up) =>
    set(({ flight }) => ({ flight: { turn: flight.turn + 1, to: "angles", round, up } })),
  turnBy: (round, up) =>
    set(({ flight }) => ({ flight: { turn: flight.turn + 1, to: "turned", round, up } })),
  showChanges: () => set(({ changes }) => ({ changes: !changes, probe: null })),
  changedSince: (since) => set({ changes: true, since, probe: null }),
  setBeside: (beside) => set({ beside }),
  unroll: (account) => set({ account }),
  compareNumbers: (numbers) => set({ numbers }),
  chart: () => set(({ charted }) => ({ charted: !charted, probe: null })),
  tryLimit: (limit) => set({ limit }),
  setProbe: (probe) => set({ probe }),
  listSuits: (suits) => set({ suits, chosen: null }),
  setRework: (rework) =>
    set(({ region }) => ({ rework, probe: null, region: { ...region, ...NOTHING_PICKED } })),
  setRegion: (change) => set(({ region }) => ({ region: { ...region, ...change } })),
  goTo: (box, facing) =>
    set(({ flight }) => ({ flight: { turn: flight.turn + 1, to: "place", box, facing } })),
  reset: () => set(({ flight }) => ({ ...start, flight: { turn: flight.turn + 1, to: "whole" } })),
}));
