import { useCallback, useEffect, useMemo } from "react";
import { useShallow } from "zustand/shallow";
import type { Item } from "../api/client";
import { useQuery } from "@tanstack/react-query";
import { revisionQuery } from "../api/queries";
import { useMachineFor } from "./use-machine";
import { Cursors } from "../inhand/cursors";
import { type ToolName, useHand } from "../inhand/hand";
import { HandBar } from "../inhand/hand-bar";
import { KeyPointing } from "../inhand/key-pointing";
import { useKeptMeasures } from "../inhand/kept-measures";
import { Strip } from "../inhand/strip";
import { type HandInView, useInHandOver } from "../inhand/use-in-hand";
import type { Label } from "../viewer/labels";
import { Link as CameraLink } from "../viewer/link";
import type { Hit, PointerAt } from "../viewer/picking";
import { ALL_SHOWN } from "../viewer/shells";
import { EMPTY_HANDED, Viewer } from "../viewer/viewer";
import { AccountSheet } from "./account";
import { Beside } from "./beside";
import { ChangesLegend } from "./changes-legend";
import { Legend } from "./legend";
import { boxRound } from "./moved";
import { depthOf } from "./rows";
import { InsteadOfView } from "./states";
import { numbersOf, rootsOf } from "./pieces";
import { type BenchStore, useBench } from "./store";
import { type Drawn, type Ground, type Tool, toolInHand } from "./tools";
import type { Chart } from "./use-chart";
import { chooseRow, type LedgerState } from "./use-ledger";
import type { Shown } from "./use-shown";
import type { Work } from "./use-work";
import { ViewTools } from "./view-tools";

const HAS_BAR: readonly ToolName[] = ["rule", "cut", "choose", "reference", "carry"];
const LABELS = 14;
const NONE: readonly number[] = [];
const NO_LABELS: readonly Label[] = [];
const NOTHING: Drawn = { probe: null, points: null, reach: 0 };

type Props = { item: Item; shown: Shown; ledger: LedgerState; chart: Chart; work: Work };

/** The middle of the bench: the model, what helps looking at it, and what is drawn on it. */
export function View({ item, shown, ledger, chart, work }: Props) {
  const { skin, before, beside, wasSkin, changing } = shown;
  const link = useMemo(() => new CameraLink(), []);
  const looks = useLooks(ledger.pieces.length);
  const setBeside = useBench((bench) => bench.setBeside);
  const tryLimit = useBench((bench) => bench.tryLimit);
  const picking = useBench((bench) => bench.region.picking);
  const sight = useBench((bench) => bench.sight);
  const inHand = useHand((held) => held.tool);
  const soundings = shown.fits && !changing && !picking ? chart.soundings : null;
  const Panel = useBench((bench) => toolInHand(bench, soundings, inHand).Panel);
  const sheet = shown.revision?.sheet;
  const kept = useKeptMeasures(item.id, shown.id);
  const machine = useMachineFor(work.ordered);
  const hand = useInHandOver({
    skin: wasSkin ? undefined : skin,
    revision: shown.fits ? shown.id : null,
    sight,
    nameOf: ledger.nameOf,
    kept: kept.kept,
    machine: machine?.sides ?? null,
  });
  const remember = useMemo(
    () => [...(shown.id === null ? [] : [`revision ${shown.id}`]), `item ${item.id}`],
    [shown.id, item.id],
  );
  useEffect(() => {
    useHand.getState().comeTo(item.id);
    return () => useHand.getState().leave(item.id);
  }, [item.id]);
  useEffect(() => useHand.getState().lookAt(shown.id), [item.id, shown.id]);
  return (
    <main className="dock relative min-w-0 flex-1">
      <div className={`absolute inset-y-0 left-0 ${beside ? "right-1/2" : "right-0"}`}>
        {skin ? (
          <KeyPointing onTurn={useBench.getState().turnBy}>
            <Model
              shown={shown}
              ledger={ledger}
              soundings={soundings}
              limit={chart.limit}
              looks={looks}
              link={link}
              remember={remember}
              hand={hand}
            />
            <Cursors />
          </KeyPointing>
        ) : (
          <InsteadOfView problem={item.problem || shown.problem} job={item.job} />
        )}
      </div>
      {beside && shown.line && (
        <Beside
          item={item}
          question={ledger.question}
          limit={chart.limit}
          shown={shown.line}
          other={beside}
          looks={looks}
          link={link}
        />
      )}
      {skin && (
        <ViewTools
          onBack={before ? shown.hold : null}
          changed={shown.against !== undefined}
          beside={beside !== undefined}
          onBeside={before ? () => setBeside(beside ? null : before.id) : null}
          sounded={chart.sounded}
        />
      )}
      {skin && Panel && <Panel skin={skin} />}
      {skin && (
        <Strip
          above={
            <>
              <Unrolled item={item} shown={shown} material={work.ordered?.key ?? ""} />
              {wasSkin && before && (
                <p role="status" className="mb-2 rounded bg-ink px-3 py-1.5 text-chalk">
                  Before: revision {before.number}, {before.title}
                </p>
              )}
              {changing && <ChangesLegend item={item} shown={shown} />}
              {soundings && sheet && (
                <Legend
                  skin={skin}
                  soundings={soundings}
                  sheet={sheet}
                  limit={chart.limit}
                  onLimit={tryLimit}
                />
              )}
            </>
          }
        >
          {HAS_BAR.includes(inHand) && (
            <HandBar
              hand={hand}
              kept={kept}
              work={work}
              machine={machine}
              finding={findingOf(shown, ledger)}
              pieceOf={shown.revision ? numbersOf(shown.revision.report.pieces) : null}
            />
          )}
        </Strip>
      )}
    </main>
  );
}

/** The account of the revision shown, while it is unrolled and nothing is in hand. */
function Unrolled({ item, shown, material }: Pick<Props, "item" | "shown"> & { material: string }) {
  const asked = useBench((bench) => bench.account);
  const nothingInHand = useHand((hand) => hand.tool === "turn");
  const { unroll, goTo } = useBench.getState();
  // what the tints mean is told in its place, and two revisions side by side need the room
  const rolled = !nothingInHand || shown.changing || shown.beside !== undefined;
  const open = asked !== null && asked === shown.revision?.id && !rolled;
  const earlier = open ? shown.before : undefined;
  const before = useQuery(revisionQuery(earlier?.id ?? null, earlier?.examination)).data;
  if (!open || !shown.revision) return null;
  const size = Math.max(...shown.revision.report.size_mm) / 12;
  return (
    <AccountSheet
      revision={shown.revision}
      before={before}
      material={material}
      quantity={item.quantity}
      onShow={(at) => goTo(boxRound(at, size), [0, 0, 0])}
      onClose={() => unroll(null)}
    />
  );
}

/** The faces of the finding that is open in the ledger. */
function findingOf({ marks }: Shown, { chosen }: LedgerState) {
  if (!marks || !chosen) return null;
  const { mark, number } = chosen;
  const faces = marks.faces.subarray(marks.faceStarts[mark], marks.faceStarts[mark + 1]);
  return faces.length ? { number, faces } : null;
}

/** How the model is drawn; tints only where there is more than one piece. */
function useLooks(pieces: number) {
  const looks = useBench((bench) => bench.looks);
  return useMemo(() => ({ ...looks, tinted: looks.tinted && pieces > 1 }), [looks, pieces]);
}

const draws = (tool: Tool, bench: BenchStore, ground: Ground | null): Drawn => ({
  ...NOTHING,
  ...(ground ? tool.draws(bench, ground) : {}),
});

type ModelProps = {
  shown: Shown;
  ledger: LedgerState;
  soundings: Chart["soundings"];
  limit: number;
  looks: ReturnType<typeof useLooks>;
  link: CameraLink;
  remember: readonly string[];
  hand: HandInView;
};

/** The model itself, with what the tool in hand draws. */
function Model(props: ModelProps) {
  const { shown, ledger, soundings, limit, looks, link, remember, hand } = props;
  const { skin, revision, wasSkin, fits, changing } = shown;
  const { rows, pieces } = ledger;
  const sight = useBench((bench) => bench.sight);
  const piece = useBench((bench) => bench.piece);
  const number = useBench((bench) => bench.chosen);
  const flight = useBench((bench) => bench.flight);
  const ground = useMemo<Ground | null>(
    () =>
      skin
        ? {
            skin,
            revision,
            soundings,
            isPiece: (shell) => pieces.some((one) => one.shell === shell),
          }
        : null,
    [skin, revision, soundings, pieces],
  );
  const held = useHand((one) => one.tool);
  const tool = useBench((bench) => toolInHand(bench, soundings, held));
  const { pick: pickInHand } = hand;
  const onPick = useCallback(
    (shell: number | null, mark: number | null, hit: Hit | null, at: PointerAt) => {
      if (!useBench.getState().region.picking && pickInHand(hit, at)) return;
      const row = mark === null ? undefined : rows.find((one) => one.mark === mark);
      if (ground) {
        toolInHand(useBench.getState(), soundings, held).pick({ shell, row, hit }, ground);
      }
    },
    [rows, ground, soundings, pickInHand, held],
  );
  const labels = useMemo(
    () =>
      rows
        // beside another one there is room for the chosen one's only
        .filter((row) => (row.number <= LABELS && !shown.beside) || row.number === number)
        .map((row) => ({
          number: row.number,
          at: row.spot.at,
          ...(soundings ? { depth: depthOf(row) } : {}),
        })),
    [rows, number, soundings, shown.beside],
  );
  const places = useMemo(() => rows.map((row) => row.mark), [rows]);
  const marked = ledger.question !== undefined && ledger.question.key !== "size";
  const drawn = useBench(useShallow((bench) => draws(tool, bench, fits ? ground : null)));
  const pulled = useBench((bench) => bench.spread);
  const spread = useMemo(
    () => (pulled > 0 && fits ? { share: pulled, roots: rootsOf(pieces) } : null),
    [pulled, fits, pieces],
  );
  const { points, reach } = drawn;
  const region = useMemo(() => points && { points, reach }, [points, reach]);
  if (!skin) return null;
  return (
    <Viewer
      skin={wasSkin ?? skin}
      marks={fits ? shown.marks : null}
      sight={fits ? sight : ALL_SHOWN}
      piece={fits ? piece : null}
      nameOf={ledger.nameOf}
      onPick={onPick}
      places={marked ? places : NONE}
      chosenPlace={ledger.chosen?.mark ?? null}
      labels={fits && marked && tool.labelled ? labels : NO_LABELS}
      chosenLabel={number}
      onChoose={(number) => {
        const row = rows.find((one) => one.number === number);
        if (row) chooseRow(row);
      }}
      looks={looks}
      flight={flight}
      remember={remember}
      link={link}
      soundings={soundings}
      changes={changing && fits ? shown.changes : null}
      limit={limit}
      probe={drawn.probe}
      region={region}
      inHand={fits ? hand.inHand : EMPTY_HANDED}
      spread={spread}
    />
  );
}
