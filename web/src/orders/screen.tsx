import { useMemo, useState } from "react";
import { Link, useNavigate } from "react-router";
import type { ItemLine, Person } from "../api/client";
import { useItems, useQuestions } from "../api/queries";
import { KeyList, type KeyLine } from "../ui/key-list";
import { useKeys } from "../ui/keys";
import { Notice } from "../ui/notice";
import { TopBar } from "../ui/top-bar";
import { DropZone } from "./drop-zone";
import { LISTS } from "./filters";
import { Incoming } from "./incoming";
import { ItemTable } from "./item-table";
import { NewOrder } from "./new-order";
import { Rail } from "./rail";

const KEYS: readonly KeyLine[] = [
  ["N", "New order"],
  ["↓ ↑", "Next, previous item"],
  ["Enter", "Open the item on the bench"],
  ["M", "Materials and their rules"],
  ["?", "These keys"],
];

export function OrdersScreen({ person }: { person: Person }) {
  const items = useItems();
  const questions = useQuestions();
  const [list, setList] = useState("all");
  const [customer, setCustomer] = useState<string | null>(null);
  const [files, setFiles] = useState<File[] | null>(null);
  const [keysShown, setKeysShown] = useState(false);
  const [chosen, setChosen] = useState<number | null>(null);
  const navigate = useNavigate();

  const shown = useMemo(() => {
    const holds = LISTS.find((one) => one.key === list)?.holds ?? (() => true);
    return (items.data ?? []).filter(
      (item) => holds(item) && (!customer || item.order.customer_name === customer),
    );
  }, [items.data, list, customer]);

  const move = (by: number) => {
    const at = shown.findIndex((item) => item.id === chosen);
    const next = shown[Math.min(shown.length - 1, Math.max(0, at + by))];
    if (!next) return;
    setChosen(next.id);
    document.getElementById(`item-${next.id}`)?.focus();
  };
  const open = (item: ItemLine) => navigate(`/items/${item.id}`);
  useKeys({
    n: () => setFiles([]),
    arrowdown: () => move(1),
    arrowup: () => move(-1),
    enter: () => {
      const item = shown.find((one) => one.id === chosen);
      if (item) void open(item);
    },
    m: () => void navigate("/materials"),
    "?": () => setKeysShown(true),
  });

  return (
    <div className="flex h-full flex-col">
      <TopBar person={person} onKeys={() => setKeysShown(true)}>
        <b className="font-[650]">Orders</b>
        <Link to="/materials" className="ml-4 opacity-85 hover:underline">
          Materials
        </Link>
        {person.lead && (
          <Link to="/trail" className="ml-4 opacity-85 hover:underline">
            Trail
          </Link>
        )}
      </TopBar>
      <div className="flex min-h-0 flex-1">
        <Rail
          items={items.data ?? []}
          list={list}
          onList={(key) => {
            setList(key);
            setCustomer(null);
          }}
          customer={customer}
          onCustomer={(name) => {
            setCustomer(name);
            setList("all");
          }}
        />
        <main className="flex min-w-0 flex-1 flex-col border-l border-rule">
          <DropZone onFiles={setFiles} />
          {items.isError ? (
            <Notice title="The orders cannot be shown.">{items.error.message}</Notice>
          ) : items.isPending ? (
            <Notice title="Fetching the orders…" />
          ) : shown.length ? (
            <ItemTable
              items={shown}
              questions={questions.data ?? []}
              chosen={chosen}
              onChoose={setChosen}
              onOpen={(item) => void open(item)}
            />
          ) : items.data.length ? (
            <Notice title="Nothing here.">No item is in this state just now.</Notice>
          ) : (
            <Notice title="No orders yet.">
              Drop a customer&apos;s files above; they become the items of a new order.
            </Notice>
          )}
        </main>
      </div>
      <Incoming />
      {files && <NewOrder files={files} onClose={() => setFiles(null)} />}
      <KeyList open={keysShown} onOpenChange={setKeysShown} lines={KEYS} />
    </div>
  );
}
