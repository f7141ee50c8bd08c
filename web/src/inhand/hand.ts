import { create } from "zustand";
import { keepLatest } from "../ui/latest";
import type { CutPlane } from "../viewer/clip";
import type { Choice } from "../viewer/choice";
import type { Pick } from "../viewer/picks";

/** What the pointer works with; one at a time. */
export type ToolName = "turn" | "rule" | "probe" | "cut" | "choose" | "reference" | "carry";

export type RuleKind = "distance" | "angle" | "round" | "through" | "piece";
/** Solids that can cut. */
export type CutBySolid = "block" | "cylinder";
/** Ways to cut that are drawn over the model, which stays whole meanwhile. */
export type CutByDrawing = "line" | CutBySolid;
export type CutBy = "x" | "y" | "z" | "view" | "picks" | CutByDrawing;
export type ChooseBy = "brush" | "rectangle" | "lasso" | "flat" | "smooth" | "piece";
export type ReferenceKind = "none" | "cube" | "coin" | "hand" | "machine";

export type Cut = {
  by: CutBy;
  plane: CutPlane;
  /** What is cut away is drawn see-through. */
  both: boolean;
};

/** What a block or a cylinder that cuts is like, mm. */
export type Cutter = {
  at: readonly [number, number, number];
  /** Of a block, along x, y and z. */
  sides: readonly [number, number, number];
  /** Of a cylinder. */
  across: number;
  height: number;
  axis: "x" | "y" | "z";
};

/** Which way carried pieces go: as they are seen, along one axis, or level. */
export type CarryWay = "view" | "x" | "y" | "z" | "level";

/** Pieces that are being moved, and how far they are by now, mm. */
export type Carry = {
  pieces: readonly number[];
  /** Their shells, with all that lies in them. */
  shells: ReadonlySet<number>;
  by: readonly [number, number, number];
  way: CarryWay;
};

export type Remembered = { name: string; revision: number; runs: readonly number[] };

export type Hand = {
  tool: ToolName;
  rule: {
    kind: RuleKind;
    /** Those of the measure that is being made. */
    picks: readonly Pick[];
    /** Round edges and cylinders give their centres. */
    centres: boolean;
    /** The kept measure that is shown, by its key. */
    shown: number | null;
  };
  /** Where the model is cut; it stays while other things are in hand. */
  cut: Cut | null;
  /** Picks of a plane through three of them, or of a line. */
  cutPicks: readonly Pick[];
  /** Which way it was looked when the line was begun. */
  lineWay: readonly number[] | null;
  /** The block or cylinder that is to cut. */
  cutter: Cutter | null;
  /** Where joints are to be, mm; null while places are proposed instead. */
  jointSpots: readonly (readonly number[])[] | null;
  choose: {
    by: ChooseBy;
    /** Takes faces out of the choice instead of adding them. */
    takes: boolean;
    /** A rectangle or lasso goes through the body. */
    through: boolean;
    /** Of the brush, mm; null until the model's size gives it. */
    radius: number | null;
    /** Up to which a face counts as flat, or an edge as smooth, degrees. */
    angle: number;
  };
  /** The chosen faces, and of which revision they are. */
  choice: { faces: Choice; revision: number } | null;
  /** What was chosen before, the latest last. */
  past: readonly Choice[];
  remembered: readonly Remembered[];
  carry: Carry | null;
  reference: { kind: ReferenceKind; size: Record<"cube" | "coin" | "hand", number> };
  take: (tool: ToolName) => void;
  /** Some pieces are in hand, to be moved. */
  carryPieces: (pieces: readonly number[], shells: ReadonlySet<number>) => void;
  setCarry: (change: Partial<Carry>) => void;
  setRule: (change: Partial<Hand["rule"]>) => void;
  setCut: (cut: Cut | null) => void;
  setCutPicks: (picks: readonly Pick[], way?: readonly number[]) => void;
  setCutter: (cutter: Cutter | null) => void;
  setJointSpots: (spots: readonly (readonly number[])[] | null) => void;
  setChoose: (change: Partial<Hand["choose"]>) => void;
  /** Another choice; the one before can be had again. */
  setChoice: (faces: Choice | null, revision: number) => void;
  /** The choice while it is being painted: nothing to go back to is kept of it. */
  paint: (faces: Choice) => void;
  undo: () => void;
  remember: (kept: Remembered) => void;
  setReference: (change: Partial<Hand["reference"]>) => void;
  /** An item is come to: what was in hand when it was left is again, else nothing is. */
  comeTo: (item: number) => void;
  /** It is left; what is in hand is remembered with it. */
  leave: (item: number) => void;
  /** The revision that is looked at, none before one is known. */
  revision: number | null;
  /**
   * Another revision is looked at. Picks and choices of the one before mean nothing on it: they are
   * kept for when that one is looked at again, and those of this one are back. The tool in hand
   * stays in hand; an item that is opened at a revision has the tool that it was left with.
   */
  lookAt: (revision: number | null) => void;
};

/** What belongs to one revision of an item. */
type OfRevision = { [name in "tool" | "choice" | "past"]: Hand[name] };

const MOST_PAST = 30;

/** Items, and revisions, of which that is remembered: a choice on a large model takes megabytes. */
const MOST_LEFT = 12;
/** What was in hand when each item was left, the latest last. */
const LEFT = new Map<number, Partial<Hand>>();
/** Tool and choice that each revision was left with, the latest last. */
const LEFT_AT = new Map<number, OfRevision>();

const start = {
  tool: "turn" as ToolName,
  rule: { kind: "distance" as RuleKind, picks: [], centres: false, shown: null },
  cut: null,
  cutPicks: [],
  lineWay: null,
  cutter: null,
  jointSpots: null,
  choice: null,
  past: [],
  remembered: [],
  carry: null as Carry | null,
  revision: null as number | null,
};

/** What is in hand over the model, and what was found and chosen with it. */
export const useHand = create<Hand>((set, get) => ({
  ...start,
  choose: { by: "brush", takes: false, through: false, radius: null, angle: 15 },
  reference: { kind: "none", size: { cube: 20, coin: 25, hand: 190 } },
  take: (tool) =>
    set(({ rule }) => ({
      tool,
      carry: null,
      cutPicks: [],
      jointSpots: null,
      rule: { ...rule, picks: [], shown: null },
    })),
  carryPieces: (pieces, shells) => {
    get().take("carry");
    set({ carry: { pieces, shells, by: [0, 0, 0], way: "view" } });
  },
  setCarry: (change) => set(({ carry }) => ({ carry: carry && { ...carry, ...change } })),
  setRule: (change) => set(({ rule }) => ({ rule: { ...rule, ...change } })),
  setCut: (cut) => set({ cut }),
  setCutPicks: (cutPicks, way) => set(way ? { cutPicks, lineWay: way } : { cutPicks }),
  setCutter: (cutter) => set({ cutter }),
  setJointSpots: (jointSpots) => set({ jointSpots }),
  setChoose: (change) => set(({ choose }) => ({ choose: { ...choose, ...change } })),
  setChoice: (faces, revision) =>
    set(({ choice, past }) => ({
      choice: faces && { faces, revision },
      past: faces
        ? [...past.slice(1 - MOST_PAST), choice?.faces ?? new Uint8Array(faces.length)]
        : [],
    })),
  paint: (faces) => set(({ choice }) => ({ choice: choice && { ...choice, faces } })),
  undo: () =>
    set(({ choice, past }) => {
      const faces = past.at(-1);
      return faces && choice ? { choice: { ...choice, faces }, past: past.slice(0, -1) } : {};
    }),
  remember: (kept) => set(({ remembered }) => ({ remembered: [...remembered, kept] })),
  setReference: (change) => set(({ reference }) => ({ reference: { ...reference, ...change } })),
  comeTo: (item) =>
    set(({ choose }) => LEFT.get(item) ?? { ...start, choose: { ...choose, radius: null } }),
  leave: (item) => {
    get().lookAt(null);
    const kept = Object.keys(start) as (keyof typeof start)[];
    const held = get();
    const left = Object.fromEntries(kept.map((name) => [name, held[name]])) as Partial<Hand>;
    keepLatest(LEFT, item, { ...left, choose: held.choose }, MOST_LEFT);
    set(start);
  },
  lookAt: (revision) =>
    set((held) => {
      if (revision === held.revision) return {};
      const { choice, past } = held;
      // what was in hand to be moved lies where it lay
      const tool = held.tool === "carry" ? "turn" : held.tool;
      if (held.revision !== null) {
        keepLatest(LEFT_AT, held.revision, { tool, choice, past }, MOST_LEFT);
      }
      const left = revision === null ? undefined : LEFT_AT.get(revision);
      return {
        revision,
        choice: left?.choice ?? null,
        past: left?.past ?? [],
        carry: null,
        tool: (held.revision === null && left?.tool) || tool,
        // a measure that was begun is begun again
        rule: { ...held.rule, picks: [], shown: null },
        cutPicks: [],
        jointSpots: null,
      };
    }),
}));
