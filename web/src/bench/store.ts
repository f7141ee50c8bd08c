import { create } from "zustand";
import type { Direction, Flight } from "../viewer/rig";
import type { Looks } from "../viewer/viewer";

type Store = {
  /** Open question of the seam; null until the first one that needs work is known. */
  question: string | null;
  /** Number of the chosen row of the ledger. */
  chosen: number | null;
  /** Revision looked at, when it is not the current one. */
  viewing: number | null;
  looks: Looks;
  flight: Flight;
  open: (question: string) => void;
  choose: (number: number | null) => void;
  view: (revision: number | null) => void;
  toggle: (look: keyof Looks) => void;
  look: (to: Direction | "whole") => void;
  goTo: (box: [number[], number[]], facing: number[]) => void;
  reset: () => void;
};

const start = {
  question: null,
  chosen: null,
  viewing: null,
  looks: { seeThrough: false, triangles: false, insideMarked: true },
};

/** How the bench looks at its item; nothing here is stored. */
export const useBench = create<Store>((set) => ({
  ...start,
  flight: { turn: 0, to: "whole" },
  open: (question) => set({ question, chosen: null }),
  choose: (chosen) => set({ chosen }),
  view: (viewing) => set({ viewing, chosen: null }),
  toggle: (look) => set(({ looks }) => ({ looks: { ...looks, [look]: !looks[look] } })),
  look: (to) => set(({ flight }) => ({ flight: { turn: flight.turn + 1, to } })),
  goTo: (box, facing) =>
    set(({ flight }) => ({ flight: { turn: flight.turn + 1, to: "place", box, facing } })),
  reset: () => set(({ flight }) => ({ ...start, flight: { turn: flight.turn + 1, to: "whole" } })),
}));
