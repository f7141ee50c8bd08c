import { create } from "zustand";
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
  /** Another revision: picks and choices of the one before mean nothing on it. */
  forget: () => void;
};

const MOST_PAST = 30;

/** What was in hand when each item was left, the latest last. */
const LEFT = new Map<number, Partial<Hand>>();
/** Items of which that is remembered: a choice on a large model takes megabytes. */
const MOST_LEFT = 12;

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
};

/** What was in hand to be moved lies where it lay. */
const withoutCarry = ({ tool }: { tool: ToolName }) => ({
  carry: null,
  tool: tool === "carry" ? ("turn" as const) : tool,
});

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
  leave: (item) =>
    set((held) => {
      const kept = Object.keys(start) as (keyof typeof start)[];
      const { choose, rule } = held;
      LEFT.delete(item);
      LEFT.set(item, {
        ...(Object.fromEntries(kept.map((name) => [name, held[name]])) as Partial<Hand>),
        choose,
        ...withoutCarry(held),
        // a measure that was begun is begun again
        rule: { ...rule, picks: [], shown: null },
        cutPicks: [],
        jointSpots: null,
      });
      for (const oldest of LEFT.keys()) if (LEFT.size > MOST_LEFT) LEFT.delete(oldest);
      return start;
    }),
  forget: () =>
    set(({ rule, tool }) => ({
      ...withoutCarry({ tool }),
      choice: null,
      past: [],
      cutPicks: [],
      jointSpots: null,
      rule: { ...rule, picks: [], shown: null },
    })),
}));
