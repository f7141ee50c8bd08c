import { useMemo, useState } from "react";
import { Link, useParams } from "react-router";
import type { Person } from "../api/client";
import { isGone, useItem } from "../api/queries";
import { KeyList } from "../ui/key-list";
import { Notice } from "../ui/notice";
import { ItemTrail } from "../trail/item-trail";
import { chooseShells } from "../inhand/choose";
import { useTitle } from "../ui/title";
import { TopBar } from "../ui/top-bar";
import { boxOf } from "../viewer/shells";
import { Between } from "./between";
import { BringIn } from "./bring-in";
import { CompareTable } from "./compare-table";
import { Facts } from "./facts";
import { KEYS } from "./key-lines";
import { LedgerColumn } from "./ledger-column";
import { LetterSheet } from "./letter-sheet";
import { Logbook } from "./logbook";
import { boxRound } from "./moved";
import { Pieces } from "./pieces";
import { Seam } from "./seam";
import { useBench } from "./store";
import { useAddress } from "./use-address";
import { useBenchKeys } from "./use-bench-keys";
import { useChart } from "./use-chart";
import { useLedger } from "./use-ledger";
import { useLetter } from "./use-letter";
import { useShown } from "./use-shown";
import { useWork } from "./use-work";
import { View } from "./view";

/** The screen where one item is worked on. */
export default function BenchScreen({ person }: { person: Person }) {
  const id = Number(useParams().id);
  const item = useItem(id);
  const [keysShown, setKeysShown] = useState(false);
  useTitle(item.data?.name, item.data?.order.number);
  useAddress(id);
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
      {item.data && !isGone(item.error) ? (
        // what cannot be fetched just now stays as it was seen last
        <Bench id={id} onKeys={() => setKeysShown(true)} />
      ) : item.isError ? (
        <Notice title="This item cannot be shown.">{item.error.message}</Notice>
      ) : (
        <Notice title="Fetching the item…" />
      )}
      <KeyList open={keysShown} onOpenChange={setKeysShown} lines={KEYS} />
    </div>
  );
}

function Bench({ id, onKeys }: { id: number; onKeys: () => void }) {
  const item = useItem(id).data!;
  const shown = useShown(item);
  const ledger = useLedger(item, shown);
  const work = useWork(item, shown);
  const { revision, skin } = shown;
  const chart = useChart(
    revision?.id === shown.id ? revision : undefined,
    ledger.question,
    ledger.chosen,
  );
  const numbers = useBench((bench) => bench.numbers);
  const compareNumbers = useBench((bench) => bench.compareNumbers);
  const [trail, setTrail] = useState(false);
  const [between, setBetween] = useState<readonly [number, number] | null>(null);
  const open = useBench((bench) => bench.open);
  const goTo = useBench((bench) => bench.goTo);
  const lookAt = (shell: number) => {
    if (skin && shell + 1 < skin.starts.length) goTo(boxOf(skin, shell), [0, 0, 0]);
  };
  // what leaves is read where the model was
  const leaving = ledger.open === "release" && !shown.movedOn && shown.id === item.current;
  const again = useBench((bench) => bench.again);
  const letter = useLetter(item, leaving && (item.ready || (item.released !== null && again)));
  const operate =
    work.canWork && revision
      ? (operation: string, parameters: Record<string, unknown>) =>
          work.actions.operate.mutate({ revision: revision.id, operation, parameters })
      : null;
  useBenchKeys({ item, shown, ledger, work, chart, lookAt, onKeys, onTrail: () => setTrail(true) });
  // the first one first: where pieces were put back last as they came
  const earlier = useMemo(() => [...work.earlier].sort((a, b) => a.id - b.id), [work.earlier]);
  return (
    <>
      <Seam segments={shown.seam} open={ledger.open} onOpen={open} />
      <div className="flex min-h-0 flex-1">
        <Facts item={item} revision={revision}>
          {revision && (
            <Pieces
              item={id}
              report={revision.report}
              apart={item.apart}
              onApart={work.canWork ? work.setApart : null}
              onLookAt={lookAt}
              names={item.piece_names}
              onName={
                work.mayKeep
                  ? (number, name) => work.actions.name.mutateAsync({ number, name })
                  : null
              }
              operations={work.operations}
              earlier={earlier}
              material={work.ordered}
              onOperate={operate && ((name, pieces, given) => operate(name, { ...given, pieces }))}
              onBetween={work.mayKeep ? setBetween : null}
              onDerive={
                work.canWork
                  ? (pieces, { name, each, takeOut }) =>
                      work.actions.derive.mutateAsync({
                        revision: revision.id,
                        pieces: [...pieces],
                        name,
                        each,
                        take_out: takeOut,
                      })
                  : null
              }
              onChooseFaces={(shells) => skin && chooseShells(skin, revision.id, shells)}
            />
          )}
          {revision && (
            <BringIn item={item} onRun={operate && ((name, others) => operate(name, { others }))} />
          )}
        </Facts>
        {letter ? (
          <LetterSheet item={item} letter={letter} />
        ) : (
          <View item={item} shown={shown} ledger={ledger} chart={chart} work={work} />
        )}
        <LedgerColumn item={item} shown={shown} ledger={ledger} work={work} letter={letter} />
      </div>
      <Logbook item={item} shown={shown.id} work={work} onTrail={() => setTrail(true)} />
      {numbers && shown.id !== null && (
        <CompareTable
          item={item}
          first={[...(shown.before ? [shown.before.id] : []), shown.id]}
          onClose={() => compareNumbers(false)}
        />
      )}
      {between && revision && (
        <Between
          item={id}
          revision={revision.id}
          pieces={between}
          onShow={(at) => {
            setBetween(null);
            goTo(boxRound(at, Math.max(...revision.report.size_mm) / 12), [0, 0, 0]);
          }}
          onClose={() => setBetween(null)}
        />
      )}
      {trail && <ItemTrail item={item} onClose={() => setTrail(false)} />}
    </>
  );
}
