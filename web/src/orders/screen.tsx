import { useCallback, useEffect, useRef, useState } from "react";
import { useNavigate } from "react-router";
import type { ItemLine, Person, Together } from "../api/client";
import { useQuestions } from "../api/queries";
import { expectBench, prepareBench } from "../bench/load";
import { Button } from "../ui/button";
import { useDwell } from "../ui/dwell";
import { count } from "../ui/format";
import { KeyList, type KeyLine } from "../ui/key-list";
import { useKeys } from "../ui/keys";
import { Notice } from "../ui/notice";
import { useTitle } from "../ui/title";
import { Places } from "../ui/places";
import { TopBar } from "../ui/top-bar";
import { useAsked } from "./asked";
import { COLUMNS, keepColumns, keptColumns } from "./columns";
import { DropZone } from "./drop-zone";
import { FindLine } from "./find-line";
import { Incoming } from "./incoming";
import { type Grid, ItemTable } from "./item-table";
import { NewOrder } from "./new-order";
import { useCounts, useRows, useWorkGoingOn } from "./queries";
import { Rail } from "./rail";
import { TAKEN_KEYS, TakenBar } from "./taken-bar";
import { useTaken } from "./taken";

const KEYS: readonly KeyLine[] = [
  ["+", "New order"],
  ["/", "Find"],
  ["↓ ↑", "Next, previous item"],
  ["Enter", "Open the item on the bench"],
  ["Space", "Take the item, or let it go"],
  ["⇧ ↓ ↑", "Take the next, the previous item too"],
  ["⇧E", "Take every item of the list"],
  ["Esc", "Let go of all"],
  ...TAKEN_KEYS.map(([key, does]) => [key, `Of what is taken: ${does.toLowerCase()}`] as const),
  ["⇧J", "Materials and their rules"],
  ["?", "These keys"],
];

export function OrdersScreen({ person }: { person: Person }) {
  useTitle("Orders");
  const [asked, ask] = useAsked();
  const [sight, setSight] = useState({ first: 0, last: 0 });
  const rows = useWorkGoingOn(useRows(asked, sight.first, sight.last));
  const counts = useCounts();
  const questions = useQuestions();
  const [files, setFiles] = useState<File[] | null>(null);
  const [keysShown, setKeysShown] = useState(false);
  const [cursor, setCursor] = useState(0);
  const [columns, setColumns] = useState(keptColumns);
  const [asking, setAsking] = useState<Together["act"] | null>(null);
  const grid = useRef<Grid>(null);
  const taken = useTaken(asked, rows, sight);
  const navigate = useNavigate();
  const onInSight = useCallback(
    (first: number, last: number) =>
      setSight((now) => (now.first === first && now.last === last ? now : { first, last })),
    [],
  );

  const total = rows.count ?? 0;
  const all = counts.data?.lists.find((one) => one.key === "all")?.count ?? total;
  const move = (by: number, taking = false) => {
    const to = Math.min(total - 1, Math.max(0, cursor + by));
    if (to < 0) return;
    if (taking) taken.upTo(cursor, to);
    setCursor(to);
    grid.current?.reveal(to);
    const item = rows.at(to);
    // drawn by now, or once it has scrolled into sight
    requestAnimationFrame(() => item && document.getElementById(`item-${item.id}`)?.focus());
  };
  const open = (item: ItemLine) => {
    prepareBench(item);
    void navigate(`/items/${item.id}`);
  };
  // who rests on a row most likely opens it
  const point = useDwell(prepareBench);
  // whoever looks at the list opens an item next
  useEffect(() => {
    if (import.meta.env.PROD) expectBench();
  }, []);
  const withTaken = (act: Together["act"]) => () => {
    if (taken.items.size) setAsking(act);
  };
  useKeys({
    "+": () => person.may_change && setFiles([]),
    "/": () => document.getElementById("find")?.focus(),
    arrowdown: () => move(1),
    arrowup: () => move(-1),
    "shift+arrowdown": () => move(1, true),
    "shift+arrowup": () => move(-1, true),
    pagedown: () => move(12),
    pageup: () => move(-12),
    home: () => move(-total),
    end: () => move(total),
    enter: () => {
      const item = rows.at(cursor);
      if (item) open(item);
    },
    " ": () => taken.toggle(cursor),
    "shift+e": () => void taken.all(),
    escape: () => taken.letGo(),
    m: withTaken("mend"),
    "shift+s": withTaken("size"),
    "shift+m": withTaken("material"),
    "shift+d": withTaken("due"),
    "shift+g": withTaken("assign"),
    "shift+x": withTaken("set-aside"),
    "shift+j": () => void navigate("/materials"),
    "?": () => setKeysShown(true),
  });

  return (
    <div className="flex h-full flex-col">
      <TopBar person={person} onKeys={() => setKeysShown(true)}>
        <Places person={person} here="/" />
      </TopBar>
      <div className="flex min-h-0 flex-1">
        <Rail counts={counts.data} asked={asked} onAsk={ask} />
        <DropZone onFiles={person.may_change ? setFiles : null}>
          <h1 className="sr-only">Orders</h1>
          <FindLine
            asked={asked}
            onAsk={(part) => {
              setCursor(0);
              ask(part);
            }}
            columns={columns}
            onColumns={(keys) => {
              setColumns(keys);
              keepColumns(keys);
            }}
          >
            {person.may_change && (
              <Button look="primary" hint="+" onClick={() => setFiles([])}>
                New order
              </Button>
            )}
          </FindLine>
          {rows.problem ? (
            <Notice title="The orders cannot be shown.">{rows.problem.message}</Notice>
          ) : rows.count === undefined ? (
            <Notice title="Fetching the orders…" />
          ) : rows.count ? (
            <ItemTable
              ref={grid}
              rows={rows}
              columns={COLUMNS.filter((one) => columns.includes(one.key))}
              questions={questions.data ?? []}
              sort={asked.sort}
              onSort={(sort) => ask({ sort })}
              cursor={cursor}
              onCursor={setCursor}
              taken={taken.items}
              onTake={(index, upTo) => {
                if (upTo) taken.upTo(cursor, index);
                else taken.toggle(index);
                setCursor(index);
              }}
              onTakeAll={() => void taken.all()}
              onOpen={open}
              onPoint={point}
              onInSight={onInSight}
            />
          ) : (
            <Empty all={all} />
          )}
          <p className="flex gap-3 border-t border-rule px-5 py-1.5 text-small text-ink-2">
            <span className="flex-1">{`${count(total)} of ${count(all)} items`}</span>
            {person.may_change && <span>Files dropped anywhere become a new order.</span>}
          </p>
          {person.may_change && (
            <TakenBar
              taken={taken.items}
              asking={asking}
              onAsking={setAsking}
              onLeft={taken.keepOnly}
            />
          )}
        </DropZone>
      </div>
      <Incoming />
      {files && <NewOrder files={files} onClose={() => setFiles(null)} />}
      <KeyList open={keysShown} onOpenChange={setKeysShown} lines={KEYS} />
    </div>
  );
}

function Empty({ all }: { all: number }) {
  return all ? (
    <Notice title="Nothing here.">No item fits all that is asked for.</Notice>
  ) : (
    <Notice title="No orders yet.">
      Drop a customer&apos;s files here; they become the items of a new order.
    </Notice>
  );
}
