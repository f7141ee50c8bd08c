import { useNavigate } from "react-router";
import type { Item, RevisionLine } from "../api/client";
import { type ToolName, useHand } from "../inhand/hand";
import { type Keys, useKeys } from "../ui/keys";
import { listedOf } from "./rows";
import { useBench } from "./store";
import type { Chart } from "./use-chart";
import { chooseRow, type LedgerState } from "./use-ledger";
import type { Shown } from "./use-shown";
import type { Work } from "./use-work";
import { DIRECTIONS } from "./view-tools";

type Given = {
  item: Item;
  shown: Shown;
  ledger: LedgerState;
  work: Work;
  chart: Chart;
  lookAt: (shell: number) => void;
  onKeys: () => void;
  onTrail: () => void;
};

/** What each key of the bench does; `key-lines` tells it to people. */
export function useBenchKeys(given: Given): void {
  const navigate = useNavigate();
  useKeys({
    ...lookingKeys(given),
    ...handKeys(),
    ...pieceKeys(given),
    ...findingKeys(given),
    ...revisionKeys(given),
    ...workKeys(given),
    ...historyKeys(given),
    o: () => void navigate("/"),
    ";": given.onTrail,
    "?": given.onKeys,
  });
}

const bench = () => useBench.getState();

/** Back and forward by the keys that every program has for it: of a choice, else of the revisions. */
function historyKeys({ item, work }: Given): Keys {
  const { revisions, current } = item;
  const go = (to: RevisionLine | undefined) => {
    if (to && work.canWork) work.goTo(to);
  };
  const choosing = () => useHand.getState().tool === "choose";
  const onward = () => {
    // forward to what was made of it last
    if (!choosing()) go(revisions.findLast((one) => one.parent === current));
  };
  return {
    "ctrl+z": () => {
      if (choosing()) {
        useHand.getState().undo();
        return;
      }
      const here = revisions.find((one) => one.id === current);
      go(revisions.find((one) => one.id === here?.parent));
    },
    "ctrl+y": onward,
    "ctrl+shift+z": onward,
  };
}

/** Let go of the picks, then of the tool; false where nothing is in hand. */
function putDown(): boolean {
  const { tool, rule, cutPicks, take } = useHand.getState();
  if (tool === "turn") return false;
  const begun = (tool === "rule" && rule.picks.length > 0) || cutPicks.length > 0;
  take(begun ? tool : "turn");
  return true;
}

/** Take a tool, and point at the view with the keys. */
function takeInHand(tool: ToolName): void {
  useHand.getState().take(tool);
  document.querySelector<HTMLElement>("[data-view]")?.focus();
}

function handKeys(): Keys {
  return {
    " ": () => takeInHand("turn"),
    "shift+r": () => takeInHand("rule"),
    "shift+p": () => takeInHand("probe"),
    "shift+c": () => takeInHand("cut"),
    "shift+f": () => takeInHand("choose"),
    "shift+k": () => takeInHand("reference"),
    "shift+w": () => bench().toggle("parallel"),
    backspace: () => {
      const { tool, rule, setRule, undo } = useHand.getState();
      if (tool === "rule") setRule({ picks: rule.picks.slice(0, -1) });
      if (tool === "choose") undo();
    },
  };
}

function lookingKeys({ shown, chart }: Given): Keys {
  const { before, beside, against } = shown;
  return {
    ...Object.fromEntries(
      DIRECTIONS.map(({ to, key }) => [key.toLowerCase(), () => bench().look(to)]),
    ),
    w: () => bench().look("whole"),
    s: () => bench().toggle("seeThrough"),
    t: () => bench().toggle("triangles"),
    i: () => bench().toggle("insideMarked"),
    g: () => bench().toggle("tinted"),
    k: () => {
      if (against) bench().showChanges();
    },
    ",": () => {
      if (before) bench().setBeside(beside ? null : before.id);
    },
    z: () => {
      if (chart.sounded) bench().chart();
    },
  };
}

function pieceKeys({ ledger: { pieces }, lookAt }: Given): Keys {
  const onPiece = (act: (piece: number) => void) => () => {
    const { piece } = bench();
    if (piece !== null) act(piece);
  };
  return {
    v: () => {
      const { piece, choosePiece } = bench();
      const at = pieces.findIndex((one) => one.shell === piece);
      const next = pieces[(at + 1) % Math.max(1, pieces.length)];
      if (!next) return;
      choosePiece(next.shell);
      lookAt(next.shell);
    },
    x: onPiece((piece) => bench().hide(piece)),
    y: onPiece((piece) => bench().showOnly(piece)),
    e: () => bench().showAll(),
    "-": onPiece(() => {
      if (pieces.length > 1) bench().part(!bench().parting);
    }),
  };
}

function findingKeys({ item, ledger }: Given): Keys {
  const step = (by: number) => {
    const { chosen, listing } = bench();
    const rows = listedOf(ledger.rows, listing);
    if (!rows.length) return;
    const at = rows.findIndex((row) => row.number === chosen);
    const next = at < 0 ? (by > 0 ? 0 : rows.length - 1) : (at + by + rows.length) % rows.length;
    if (rows[next]!.number !== chosen) chooseRow(rows[next]!);
  };
  return {
    ...Object.fromEntries(item.seam.map((s, i) => [String(i + 1), () => bench().open(s.question)])),
    n: () => step(1),
    p: () => step(-1),
    j: () => {
      const elsewhere = ledger.open !== "walls";
      if (elsewhere) bench().open("walls");
      bench().listSuits(elsewhere || !bench().suits);
    },
    ".": () => bench().setRework(!bench().rework),
    escape: () => {
      if (putDown()) return;
      if (bench().account !== null) {
        bench().unroll(null);
        return;
      }
      bench().setProbe(null);
      bench().choose(null);
      bench().choosePiece(null);
    },
  };
}

function revisionKeys({ item, shown, work }: Given): Keys {
  const step = (by: number) => {
    const at = item.revisions.findIndex((one) => one.id === shown.id);
    const next = item.revisions[at + by];
    if (next) bench().view(next.id === item.current ? null : next.id);
  };
  return {
    "<": () => step(-1),
    ">": () => step(1),
    h: work.workFromHere,
    "shift+n": () => bench().compareNumbers(true),
    "shift+a": () => bench().unroll(bench().account === shown.id ? null : shown.id),
  };
}

function workKeys({ item, ledger, work }: Given): Keys {
  return {
    m: () => {
      if (work.canWork && item.seam.some((s) => s.state === "leaks")) work.mend();
    },
    c: () => {
      if (work.busy && item.job) work.actions.cancel.mutate(item.job.id);
    },
    // the first time to read what leaves, the second to be asked
    d: () => {
      const there = ledger.open === "release";
      bench().open("release");
      if (there && work.canWork && (item.ready || bench().again)) bench().ask(true);
    },
  };
}
