import { useCallback, useEffect, useMemo, useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import type { Person } from "../api/client";
import {
  isOpen,
  useItem,
  useItemActions,
  useMaterials,
  useOperations,
  useQuestions,
  useRevision,
} from "../api/queries";
import { Button } from "../ui/button";
import { Complaint } from "../ui/field";
import { KeyList } from "../ui/key-list";
import { useHeldKey, useKeys } from "../ui/keys";
import { Notice } from "../ui/notice";
import { JobProgress } from "../ui/progress";
import { TopBar } from "../ui/top-bar";
import { ALL_SHOWN, boxOf } from "../viewer/shells";
import { Link as CameraLink } from "../viewer/link";
import type { Hit } from "../viewer/picking";
import { probeAt } from "../viewer/probe";
import { MOST_POINTS } from "../viewer/region";
import { Viewer } from "../viewer/viewer";
import { AccountOf } from "./account";
import { Answer } from "./answer";
import { Beside } from "./beside";
import { ChangesLegend } from "./changes-legend";
import { Facts } from "./facts";
import { KEYS } from "./key-lines";
import { Legend } from "./legend";
import { Logbook } from "./logbook";
import { nestedPieces, pieceName, Pieces } from "./pieces";
import { ProbePanel } from "./probe-panel";
import { ReleasePanel } from "./release-panel";
import type { OnRun } from "./remedy";
import { Rework, ReworkDoor, usualReach } from "./rework";
import { depthOf, type Row, rowsOf } from "./rows";
import { Seam } from "./seam";
import { Ended, InsteadOfView } from "./states";
import { useBench } from "./store";
import { useChart } from "./use-chart";
import { useDeviation, useMarks, useSkin } from "./use-mesh";
import { DIRECTIONS, ViewTools } from "./view-tools";

const LABELS = 14;
const NONE: readonly number[] = [];
export default function BenchScreen({ person }: { person: Person }) {
  const id = Number(useParams().id);
  const item = useItem(id);
  const [keysShown, setKeysShown] = useState(false);
  const reset = useBench((bench) => bench.reset);
  useEffect(reset, [id, reset]);
  return (
    <div className="flex h-full flex-col">
      <TopBar person={person} onKeys={() => setKeysShown(true)}>
        <Link to="/" className="opacity-85 hover:underline">
          Orders
        </Link>
        {item.data && (
          <>
            <span className="opacity-60">/</span>
            <span className="opacity-85">
              {item.data.order.number} {item.data.order.customer_name}
            </span>
            <span className="opacity-60">/</span>
            <b className="truncate font-[650]">{item.data.name}</b>
          </>
        )}
      </TopBar>
      {item.isError ? (
        <Notice title="This item cannot be shown.">{item.error.message}</Notice>
      ) : item.isPending ? (
        <Notice title="Fetching the item…" />
      ) : (
        <Bench id={id} onKeys={() => setKeysShown(true)} />
      )}
      <KeyList open={keysShown} onOpenChange={setKeysShown} lines={KEYS} />
    </div>
  );
}

function Bench({ id, onKeys }: { id: number; onKeys: () => void }) {
  const item = useItem(id).data!;
  const bench = useBench();
  const questions = useQuestions().data ?? [];
  const operations = useOperations().data ?? [];
  const actions = useItemActions(id);
  const navigate = useNavigate();

  const shown = bench.viewing ?? item.current;
  const revision = useRevision(shown).data;
  const line = item.revisions.find((one) => one.id === shown);
  const before = item.revisions.find((one) => one.id === line?.parent);
  const other = item.revisions.find((one) => one.id === bench.beside && one.id !== shown);
  const link = useMemo(() => new CameraLink(), []);
  const [pressed, setPressed] = useState(false);
  const held = useHeldKey("q");
  const back = (held || pressed) && before !== undefined;
  const skin = useSkin(shown);
  const changing = bench.changes && before !== undefined;
  const earlier = useSkin(back || changing ? before.id : null);
  const earlierSkin = earlier.isPlaceholderData ? undefined : earlier.data;
  const wasSkin = back ? earlierSkin : undefined;
  const nowSkin = skin.isPlaceholderData ? undefined : skin.data;
  const deviation =
    useDeviation(changing ? nowSkin : undefined, changing ? earlierSkin : undefined).data ?? null;
  const marks = useMarks(shown);
  const materials = useMaterials().data ?? [];
  const fits = revision?.id === shown && !skin.isPlaceholderData && !wasSkin;

  const openQuestion =
    bench.question ??
    item.seam.find((s) => s.state === "leaks" || s.state === "your call")?.question ??
    "release";
  const question = questions.find((q) => q.key === openQuestion);
  const rows = useMemo(
    () => (revision && question ? rowsOf(revision, question) : []),
    [revision, question],
  );
  const chosen = rows.find((row) => row.number === bench.chosen);
  const chart = useChart(revision?.id === shown ? revision : undefined, question, chosen);
  const { picking } = bench.region;
  const soundings = fits && !changing && !picking ? chart.soundings : null;
  const hasMarks = question !== undefined && question.key !== "size";
  const job = item.job;
  const ordered = materials.find((one) => one.id === item.material);
  const busy = isOpen(job);
  const canWork = !busy && bench.viewing === null && item.current !== null;

  const choose = (row: Row) => {
    if (row.number === bench.chosen) {
      bench.choose(null);
      return;
    }
    bench.choose(row.number);
    bench.goTo(row.spot.box as [number[], number[]], row.spot.facing);
  };
  const pieces = useMemo(() => nestedPieces(revision?.report.pieces), [revision]);
  const lookAt = (shell: number) => {
    if (skin.data && shell + 1 < skin.data.starts.length) {
      bench.goTo(boxOf(skin.data, shell), [0, 0, 0]);
    }
  };
  const nextPiece = () => {
    const at = pieces.findIndex((one) => one.shell === bench.piece);
    const next = pieces[(at + 1) % Math.max(1, pieces.length)];
    if (!next) return;
    bench.choosePiece(next.shell);
    lookAt(next.shell);
  };
  const onPick = useCallback(
    (shell: number | null, mark: number | null, hit: Hit | null) => {
      const row = mark === null ? undefined : rows.find((one) => one.mark === mark);
      const { choose, choosePiece, piece, setProbe, region, setRegion } = useBench.getState();
      if (region.picking) {
        if (hit && region.points.length < MOST_POINTS) {
          setRegion({ points: [...region.points, hit.at.toArray()] });
        }
        return;
      }
      if (soundings && skin.data) {
        setProbe(hit && probeAt(skin.data, soundings, hit));
        if (row) choose(row.number);
        return;
      }
      if (row) choose(row.number);
      const known = shell !== null && pieces.some((one) => one.shell === shell);
      choosePiece(known && shell !== piece ? shell : null);
    },
    [rows, pieces, soundings, skin.data],
  );
  const nameOf = useCallback(
    (shell: number) => {
      const one = pieces.find((p) => p.shell === shell);
      return one ? pieceName(one) : "Beside all pieces";
    },
    [pieces],
  );
  const step = (by: number) => {
    if (!rows.length) return;
    const at = rows.findIndex((row) => row.number === bench.chosen);
    const next = at < 0 ? (by > 0 ? 0 : rows.length - 1) : (at + by + rows.length) % rows.length;
    if (rows[next]!.number !== bench.chosen) choose(rows[next]!);
  };
  const stepRevision = (by: number) => {
    const at = item.revisions.findIndex((one) => one.id === shown);
    const next = item.revisions[at + by];
    if (next) bench.view(next.id === item.current ? null : next.id);
  };
  const leaking = item.seam.some((s) => s.state === "leaks");
  const released = item.seam.find((s) => s.question === "release");
  const shownNumber = line?.number;
  const currentNumber = item.revisions.find((one) => one.id === item.current)?.number;
  const workFromHere = () => {
    if (bench.viewing === null || shownNumber === undefined || busy) return;
    actions.returnTo.mutate(shownNumber, { onSuccess: () => bench.view(null) });
  };
  useKeys({
    ...Object.fromEntries(item.seam.map((s, i) => [String(i + 1), () => bench.open(s.question)])),
    ...Object.fromEntries(
      DIRECTIONS.map(({ to, key }) => [key.toLowerCase(), () => bench.look(to)]),
    ),
    w: () => bench.look("whole"),
    s: () => bench.toggle("seeThrough"),
    t: () => bench.toggle("triangles"),
    i: () => bench.toggle("insideMarked"),
    n: () => step(1),
    p: () => step(-1),
    g: () => bench.toggle("tinted"),
    v: nextPiece,
    x: () => {
      if (bench.piece !== null) bench.hide(bench.piece);
    },
    y: () => {
      if (bench.piece !== null) bench.showOnly(bench.piece);
    },
    e: bench.showAll,
    "-": () => {
      if (bench.piece !== null && pieces.length > 1) bench.keepApart(bench.piece);
    },
    k: () => {
      if (before) bench.showChanges();
    },
    ",": () => {
      if (before) bench.setBeside(other ? null : before.id);
    },
    z: () => {
      if (chart.sounded) bench.chart();
    },
    ".": () => bench.setRework(!bench.rework),
    j: () => {
      if (openQuestion !== "walls") bench.open("walls");
      bench.listSuits(openQuestion !== "walls" || !bench.suits);
    },
    escape: () => {
      bench.setProbe(null);
      bench.choose(null);
      bench.choosePiece(null);
    },
    "[": () => stepRevision(-1),
    "]": () => stepRevision(1),
    h: workFromHere,
    m: () => {
      if (canWork && leaking) mend();
    },
    c: () => {
      if (busy && job) actions.cancel.mutate(job.id);
    },
    d: () => {
      bench.open("release");
      if (canWork && openQuestion === "release" && released?.text === "ready") {
        actions.release.mutate("stl");
      }
    },
    o: () => void navigate("/"),
    "?": onKeys,
  });

  // numbers of pieces are those of one revision
  const { joinAll } = bench;
  useEffect(joinAll, [shown, joinAll]);
  const apart = [...bench.apart].map((shell) => shell + 1);
  const mend = () => actions.mend.mutate(apart);
  const run: OnRun = (operation, places, chosen = {}) => {
    const takes = operation.parameters.some((one) => one.name === "apart");
    actions.operate.mutate({
      operation: operation.name,
      parameters: {
        ...chosen,
        ...(places ? { places } : takes && apart.length ? { apart } : {}),
      },
    });
  };
  const problem = [
    actions.mend,
    actions.operate,
    actions.release,
    actions.returnTo,
    actions.waive,
    actions.judge,
    actions.cancel,
  ].find((one) => one.isError)?.error.message;
  // an item may open at once on what lies inside
  const { question: asked, open } = bench;
  useEffect(() => {
    if (asked === null && openQuestion === "inside") open("inside");
  }, [asked, openQuestion, open]);
  const looks = useMemo(
    () => ({ ...bench.looks, tinted: bench.looks.tinted && pieces.length > 1 }),
    [bench.looks, pieces],
  );
  const labels = useMemo(
    () =>
      rows
        // beside another one there is room for the chosen one's only
        .filter((row) => (row.number <= LABELS && !other) || row.number === bench.chosen)
        .map((row) => ({
          number: row.number,
          at: row.spot.at,
          ...(soundings ? { depth: depthOf(row) } : {}),
        })),
    [rows, bench.chosen, soundings, other],
  );
  const places = useMemo(() => rows.map((row) => row.mark), [rows]);

  return (
    <>
      <Seam segments={item.seam} open={openQuestion} onOpen={bench.open} />
      <div className="flex min-h-0 flex-1">
        <Facts item={item} revision={revision}>
          {revision && <Pieces report={revision.report} onLookAt={lookAt} />}
        </Facts>
        <main className="dock relative min-w-0 flex-1">
          <div className={`absolute inset-y-0 left-0 ${other ? "right-1/2" : "right-0"}`}>
            {skin.data ? (
              <Viewer
                skin={wasSkin ?? skin.data}
                marks={fits ? (marks.data ?? null) : null}
                sight={fits ? bench.sight : ALL_SHOWN}
                piece={fits ? bench.piece : null}
                nameOf={nameOf}
                onPick={onPick}
                places={hasMarks ? places : NONE}
                chosenPlace={chosen?.mark ?? null}
                labels={fits && hasMarks && !picking ? labels : []}
                chosenLabel={bench.chosen}
                onChoose={(number) => {
                  const row = rows.find((one) => one.number === number);
                  if (row) choose(row);
                }}
                looks={looks}
                flight={bench.flight}
                link={link}
                soundings={soundings}
                deviation={changing ? deviation : null}
                limit={chart.limit}
                probe={soundings && bench.probe}
                region={
                  picking && fits
                    ? {
                        points: bench.region.points,
                        reach: bench.region.reach || usualReach(revision),
                      }
                    : null
                }
              />
            ) : (
              <InsteadOfView problem={item.problem || skin.error?.message} job={job} />
            )}
          </div>
          {other && line && (
            <Beside item={item} shown={line} other={other} looks={looks} link={link} />
          )}
          {skin.data && (
            <ViewTools
              onBack={before ? setPressed : null}
              changed={before !== undefined}
              beside={other !== undefined}
              onBeside={before ? () => bench.setBeside(other ? null : before.id) : null}
              sounded={chart.sounded}
            />
          )}
          {changing && <ChangesLegend deviation={deviation} before={`revision ${before.number}`} />}
          {skin.data && soundings && revision?.sheet && (
            <Legend
              skin={skin.data}
              soundings={soundings}
              sheet={revision.sheet}
              limit={chart.limit}
              onLimit={bench.tryLimit}
            />
          )}
          {skin.data && soundings && bench.probe && (
            <ProbePanel skin={skin.data} probe={bench.probe} onClose={() => bench.setProbe(null)} />
          )}
          {wasSkin && before && (
            <p
              role="status"
              className="absolute bottom-3 left-1/2 -translate-x-1/2 rounded bg-ink px-3 py-1.5 text-chalk"
            >
              Before: revision {before.number}, {before.title}
            </p>
          )}
        </main>
        <section
          aria-label="Ledger"
          className="flex w-[352px] shrink-0 flex-col border-l border-rule bg-paper"
        >
          {busy && job && <JobProgress job={job} onCancel={() => actions.cancel.mutate(job.id)} />}
          {problem && <Complaint>{problem}</Complaint>}
          {!busy && job && <Ended key={job.id} job={job} />}
          {bench.viewing !== null && (
            <div className="flex items-center gap-3 border-b border-rule bg-sheet px-4 py-2.5">
              <span className="flex-1">
                You look at revision {shownNumber}; work goes on from {currentNumber}.
              </span>
              <Button hint="H" disabled={busy} onClick={workFromHere}>
                Work from here
              </Button>
            </div>
          )}
          {revision && bench.rework ? (
            <Rework
              revision={revision}
              operations={operations}
              place={chosen}
              onRun={canWork ? run : null}
            />
          ) : openQuestion === "release" && item.current !== null ? (
            <ReleasePanel
              item={item}
              busy={!canWork}
              onRelease={(format) => actions.release.mutate(format)}
            />
          ) : revision && question ? (
            <Answer
              item={item}
              revision={revision}
              question={question}
              rows={rows}
              onChoose={choose}
              operations={operations}
              ordered={ordered}
              canWork={canWork}
              actions={actions}
              onMend={mend}
              onRun={run}
            />
          ) : (
            <Notice title={item.problem ? "This file cannot be read." : "Not examined yet."}>
              {item.problem}
            </Notice>
          )}
          {revision && !bench.rework && <ReworkDoor />}
          {revision && (bench.rework || openQuestion !== "release") && (
            <AccountOf revision={revision} />
          )}
        </section>
      </div>
      <Logbook item={item} shown={shown} />
    </>
  );
}
