import { useMemo, useState } from "react";
import type { ItemLine } from "../api/client";
import { type Asked, addressOf } from "./asked";
import { allOf, type Rows } from "./queries";

const EMPTY: ReadonlyMap<number, ItemLine> = new Map();

/**
 * Rows taken for one action. They stay taken while the list is sorted anew, and are let go when
 * another list is asked for: nothing is done to what is out of sight.
 */
export function useTaken(asked: Asked, rows: Rows, sight: { first: number; last: number }) {
  const list = addressOf({ ...asked, sort: undefined }).toString();
  const [kept, setKept] = useState({ list, items: EMPTY });
  const items = kept.list === list ? kept.items : EMPTY;

  // as they are seen now, so that an action names what the person looks at
  const shown = useMemo(() => {
    const fresh = new Map(items);
    for (let at = sight.first; at <= sight.last; at++) {
      const item = rows.at(at);
      if (item && fresh.has(item.id)) fresh.set(item.id, item);
    }
    return fresh;
  }, [items, rows, sight]);

  const change = (make: (items: Map<number, ItemLine>) => void) => {
    const next = new Map(shown);
    make(next);
    setKept({ list, items: next });
  };
  return {
    items: shown as ReadonlyMap<number, ItemLine>,
    toggle: (index: number) => {
      const item = rows.at(index);
      if (item) change((now) => (now.delete(item.id) ? undefined : now.set(item.id, item)));
    },
    upTo: (from: number, to: number) =>
      change((now) => {
        for (let at = Math.min(from, to); at <= Math.max(from, to); at++) {
          const item = rows.at(at);
          if (item) now.set(item.id, item);
        }
      }),
    all: async () => {
      if (shown.size && shown.size >= (rows.count ?? 0)) {
        setKept({ list, items: EMPTY });
        return;
      }
      const every = await allOf(asked);
      setKept({ list, items: new Map(every.map((one) => [one.id, one])) });
    },
    keepOnly: (stay: ReadonlySet<number>) =>
      change((now) => {
        for (const id of now.keys()) if (!stay.has(id)) now.delete(id);
      }),
    letGo: () => setKept({ list, items: EMPTY }),
  };
}
