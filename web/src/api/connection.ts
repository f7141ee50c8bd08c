import { useEffect } from "react";
import { create } from "zustand";
import { client } from "./queries";

const ADDRESS = "/api/events";
/** How soon to try again where the browser does not by itself, ms. */
const AGAIN = 2_000;
/** Changes within so long are asked for at once, ms: a crowd of work tells its progress all the time. */
const TOGETHER = 400;
/** The same for what takes the server longer: lists. */
const LISTS_TOGETHER = 1_500;
const LISTS = ["items", "counts"];

/** What changed, by key; of `steps` only work has gone on. */
type Told = { items: number[]; orders: number[]; steps: number[]; rules: boolean; all: boolean };

/** Whether the server tells what changes; false once it could not be reached. */
export const useConnection = create<{ reached: boolean }>(() => ({ reached: true }));

/** What has to be asked for again after a change. */
export function keysOf(told: Told): unknown[][] {
  if (told.all) return [...OF_PEOPLE, ["item"], ["items"], ["counts"], ["jobs"], ...RULES];
  const keys: unknown[][] = [...told.items, ...told.steps].map((id) => ["item", id]);
  if (told.steps.length) keys.push(["jobs"]);
  if (told.items.length) keys.push(["items"], ["counts"], ["jobs"]);
  // a note or a due date: any item may be of that order
  if (told.orders.length) keys.push(["item"], ["items"], ["counts"], ["orders"], ["customers"]);
  if (told.rules) keys.push(["item"], ["items"], ["counts"], ...RULES);
  return keys;
}

const ANYTHING: Told = { items: [], orders: [], steps: [], rules: true, all: true };
const OF_PEOPLE = [["session"], ["accounts"], ["orders"], ["customers"]];
const RULES = [["materials"], ["demands"], ["machines"], ["shop"], ["editions"]];

/** Queries to be asked again, at once after a pause; the first after a quiet time is not kept waiting. */
class Gathered {
  private waiting = new Map<string, unknown[]>();
  private timer: ReturnType<typeof setTimeout> | undefined;
  private last = 0;

  constructor(private readonly pause: number) {}

  add(key: unknown[]) {
    this.waiting.set(JSON.stringify(key), key);
    const due = Math.max(TOGETHER, this.last + this.pause - Date.now());
    this.timer ??= setTimeout(() => this.ask(), due);
  }

  stop() {
    clearTimeout(this.timer);
  }

  private ask() {
    this.timer = undefined;
    this.last = Date.now();
    for (const queryKey of this.waiting.values()) void client.invalidateQueries({ queryKey });
    this.waiting.clear();
  }
}

/** Hear what changes for as long as somebody is logged in; ask anew for what that touches. */
export function useEvents(): void {
  useEffect(() => {
    if (typeof EventSource === "undefined") return undefined;
    let source: EventSource | undefined;
    // what was asked for before anything could be heard may be behind already
    let missed = true;
    let again: ReturnType<typeof setTimeout> | undefined;
    const soon = new Gathered(TOGETHER);
    const later = new Gathered(LISTS_TOGETHER);
    const hear = ({ data }: MessageEvent<string>) => {
      for (const key of keysOf(JSON.parse(data) as Told)) {
        (LISTS.includes(String(key[0])) ? later : soon).add(key);
      }
    };
    const open = () => {
      if (document.hidden) return;
      const opened = new EventSource(ADDRESS);
      source = opened;
      opened.onmessage = hear;
      opened.onopen = () => {
        useConnection.setState({ reached: true });
        // whatever happened while nothing could be heard
        if (missed) for (const key of keysOf(ANYTHING)) soon.add(key);
        missed = false;
      };
      opened.onerror = () => {
        missed = true;
        useConnection.setState({ reached: false });
        if (opened.readyState !== EventSource.CLOSED) return;
        // refused: perhaps nobody is logged in any more
        void client.invalidateQueries({ queryKey: ["session"] });
        clearTimeout(again);
        again = setTimeout(open, AGAIN);
      };
    };
    // browsers allow few connections to one server: a tab that nobody sees holds none
    const turned = () => {
      if (!document.hidden) {
        open();
        return;
      }
      missed = true;
      clearTimeout(again);
      source?.close();
      source = undefined;
    };
    open();
    document.addEventListener("visibilitychange", turned);
    return () => {
      document.removeEventListener("visibilitychange", turned);
      source?.close();
      clearTimeout(again);
      soon.stop();
      later.stop();
    };
  }, []);
}
