import { useCallback, useMemo } from "react";
import { useShallow } from "zustand/shallow";
import type { Item } from "../api/client";
import { Link as CameraLink } from "../viewer/link";
import type { Hit } from "../viewer/picking";
import { ALL_SHOWN } from "../viewer/shells";
import { Viewer } from "../viewer/viewer";
import { Beside } from "./beside";
import { ChangesLegend } from "./changes-legend";
import { Legend } from "./legend";
import { depthOf } from "./rows";
import { InsteadOfView } from "./states";
import { type BenchStore, useBench } from "./store";
import { type Drawn, type Ground, type Tool, toolInHand } from "./tools";
import type { Chart } from "./use-chart";
import { chooseRow, type LedgerState } from "./use-ledger";
import type { Shown } from "./use-shown";
import { ViewTools } from "./view-tools";

const LABELS = 14;
const NONE: readonly number[] = [];
const NOTHING: Drawn = { probe: null, points: null, reach: 0 };

type Props = { item: Item; shown: Shown; ledger: LedgerState; chart: Chart };

/** The middle of the bench: the model, what helps looking at it, and what is drawn on it. */
export function View({ item, shown, ledger, chart }: Props) {
  const { skin, line, before, beside, wasSkin, changing } = shown;
  const link = useMemo(() => new CameraLink(), []);
  const looks = useLooks(ledger.pieces.length);
  const setBeside = useBench((bench) => bench.setBeside);
  const tryLimit = useBench((bench) => bench.tryLimit);
  const picking = useBench((bench) => bench.region.picking);
  const soundings = shown.fits && !changing && !picking ? chart.soundings : null;
  const Panel = useBench((bench) => toolInHand(bench, soundings).Panel);
  const sheet = shown.revision?.sheet;
  return (
    <main className="dock relative min-w-0 flex-1">
      <div className={`absolute inset-y-0 left-0 ${beside ? "right-1/2" : "right-0"}`}>
        {skin ? (
          <Model
            shown={shown}
            ledger={ledger}
            soundings={soundings}
            limit={chart.limit}
            looks={looks}
            link={link}
          />
        ) : (
          <InsteadOfView problem={item.problem || shown.problem} job={item.job} />
        )}
      </div>
      {beside && line && (
        <Beside item={item} shown={line} other={beside} looks={looks} link={link} />
      )}
      {skin && (
        <ViewTools
          onBack={before ? shown.hold : null}
          changed={before !== undefined}
          beside={beside !== undefined}
          onBeside={before ? () => setBeside(beside ? null : before.id) : null}
          sounded={chart.sounded}
        />
      )}
      {changing && before && (
        <ChangesLegend
          changes={shown.changes}
          problem={shown.changesProblem}
          account={shown.revision?.account ?? null}
          before={`revision ${before.number}`}
        />
      )}
      {skin && soundings && sheet && (
        <Legend
          skin={skin}
          soundings={soundings}
          sheet={sheet}
          limit={chart.limit}
          onLimit={tryLimit}
        />
      )}
      {skin && Panel && <Panel skin={skin} />}
      {wasSkin && before && (
        <p
          role="status"
          className="absolute bottom-3 left-1/2 -translate-x-1/2 rounded bg-ink px-3 py-1.5 text-chalk"
        >
          Before: revision {before.number}, {before.title}
        </p>
      )}
    </main>
  );
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
};

/** The model itself, with what the tool in hand draws. */
function Model({ shown, ledger, soundings, limit, looks, link }: ModelProps) {
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
  const tool = useBench((bench) => toolInHand(bench, soundings));
  const onPick = useCallback(
    (shell: number | null, mark: number | null, hit: Hit | null) => {
      const row = mark === null ? undefined : rows.find((one) => one.mark === mark);
      if (ground) toolInHand(useBench.getState(), soundings).pick({ shell, row, hit }, ground);
    },
    [rows, ground, soundings],
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
      labels={fits && marked && tool.labelled ? labels : []}
      chosenLabel={number}
      onChoose={(number) => {
        const row = rows.find((one) => one.number === number);
        if (row) chooseRow(row);
      }}
      looks={looks}
      flight={flight}
      link={link}
      soundings={soundings}
      changes={changing && fits ? shown.changes : null}
      limit={limit}
      probe={drawn.probe}
      region={region}
    />
  );
}
