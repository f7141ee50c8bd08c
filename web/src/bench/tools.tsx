import type { ComponentType } from "react";
import type { Revision } from "../api/client";
import type { ToolName } from "../inhand/hand";
import type { LoadedSkin } from "../viewer/load-skin";
import type { Hit } from "../viewer/picking";
import { type Probe, probeAt } from "../viewer/probe";
import { MOST_POINTS } from "../viewer/region";
import type { Soundings } from "../viewer/soundings";
import { ProbePanel } from "./probe-panel";
import { usualReach } from "./rework";
import type { Row } from "./rows";
import { type BenchStore, useBench } from "./store";

/** What the pointer works on. */
export type Ground = {
  skin: LoadedSkin;
  revision: Revision | undefined;
  /** The chart of depths, while it is drawn. */
  soundings: Soundings | null;
  /** Whether a shell is one of the pieces that are listed. */
  isPiece: (shell: number) => boolean;
};

/** What was clicked: a shell, perhaps a place of the ledger, and where; nothing beside the model. */
export type Picked = { shell: number | null; row: Row | undefined; hit: Hit | null };

/** What a tool draws into the view. */
export type Drawn = {
  /** A line into the model, where its thickness was probed. */
  probe: Probe | null;
  /** Points picked on the model, and how far round each is meant, mm. */
  points: readonly (readonly number[])[] | null;
  reach: number;
};

/** What a click does where nothing of `inhand` takes it. */
export type Tool = {
  name: string;
  /** Whether it is in hand. The first of `TOOLS` that is has the pointer. */
  inHand: (bench: BenchStore, soundings: Soundings | null, hand: ToolName) => boolean;
  /** What a click does. */
  pick: (picked: Picked, ground: Ground) => void;
  draws: (bench: BenchStore, ground: Ground) => Partial<Drawn>;
  /** Whether the ledger's numbers stay in the view beside it. */
  labelled: boolean;
  /** What it has found, over the view. */
  Panel: ComponentType<{ skin: LoadedSkin }> | null;
};

/** Points of a region that is to be reworked. */
const spots: Tool = {
  name: "spots",
  inHand: (bench) => bench.region.picking,
  pick: ({ hit }) => {
    const { region, setRegion } = useBench.getState();
    if (hit && region.points.length < MOST_POINTS) {
      setRegion({ points: [...region.points, hit.at.toArray()] });
    }
  },
  draws: ({ region }, { revision }) => ({
    points: region.points,
    reach: region.reach || (revision ? usualReach(revision) : 0),
  }),
  labelled: false,
  Panel: null,
};

/** One point's thickness; where depths are drawn, a click with nothing in hand asks for it, too. */
const probe: Tool = {
  name: "probe",
  inHand: (_, soundings, hand) => hand === "probe" || (hand === "turn" && soundings !== null),
  pick: ({ row, hit }, { skin, soundings }) => {
    const { setProbe, choose } = useBench.getState();
    setProbe(hit && !hit.cut ? probeAt(skin, soundings, hit) : null);
    if (row) choose(row.number);
  },
  draws: (bench) => ({ probe: bench.probe }),
  labelled: true,
  Panel: function Probed({ skin }) {
    const probed = useBench((bench) => bench.probe);
    const setProbe = useBench((bench) => bench.setProbe);
    return probed && <ProbePanel skin={skin} probe={probed} onClose={() => setProbe(null)} />;
  },
};

/** Nothing in hand: a click chooses a place of the ledger, or a piece. */
const turn: Tool = {
  name: "turn",
  inHand: () => true,
  pick: ({ shell, row }, { isPiece }) => {
    const { choose, choosePiece, piece } = useBench.getState();
    if (row) choose(row.number);
    choosePiece(shell !== null && isPiece(shell) && shell !== piece ? shell : null);
  },
  draws: () => ({}),
  labelled: true,
  Panel: null,
};

export const TOOLS: readonly Tool[] = [spots, probe, turn];

/** The tool that has the pointer. */
export const toolInHand = (bench: BenchStore, soundings: Soundings | null, hand: ToolName): Tool =>
  TOOLS.find((one) => one.inHand(bench, soundings, hand)) ?? turn;
