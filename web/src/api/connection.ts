import { useEffect } from "react";
import { create } from "zustand";
import { client } from "./queries";

const ADDRESS = "/api/events";
/** How soon to try again where the browser does not by itself, ms. */
const AGAIN = 2_000;
/** Changes within so long are asked for at once, ms: a crowd of work tells its progress all the time. */
const TOGETHER = 400;

type Told = { items: number[]; orders: number[]; rules: boolean; all: boolean };

/** Whether the server tells what changes; false once it could not be reached. */
export const useConnection = create<{ reached: boolean }>(() => ({ reached: true }));

/** What has to be asked for again after a change. */
export function keysOf(told: Told): unknown[][] {
  if (told.all) return [["item"], ["items"], ["counts"], ["jobs"], ["orders"], ...RULES];
  const keys: unknown[][] = told.items.map((id) => ["item", id]);
  if (told.items.length) keys.push(["items"], ["counts"], ["jobs"]);
  // a note or a due date: any item may be of that order
  if (told.orders.length) keys.push(["item"], ["items"], ["counts"], ["orders"], ["customers"]);
  if (told.rules) keys.push(["item"], ["items"], ["counts"], ...RULES);
  return keys;
}

const RULES = [["materials"], ["demands"], ["machines"], ["shop"], ["editions"]];

/** Hear what changes for as long as somebody is logged in; ask anew for what that touches. */
export function useEvents(): void {
  useEffect(() => {
    if (typeof EventSource === "undefined") return undefined;
    let source: EventSource;
    let again: ReturnType<typeof setTimeout> | undefined;
    let soon: ReturnType<typeof setTimeout> | undefined;
    const waiting = new Map<string, unknown[]>();
    const refresh = () => {
      soon = undefined;
      for (const queryKey of waiting.values()) {
        // an answer that is on its way was begun before the change, perhaps
        void client.invalidateQueries({ queryKey }, { cancelRefetch: false });
      }
      waiting.clear();
    };
    const hear = ({ data }: MessageEvent<string>) => {
      for (const key of keysOf(JSON.parse(data) as Told)) waiting.set(JSON.stringify(key), key);
      soon ??= setTimeout(refresh, TOGETHER);
    };
    const open = () => {
      source = new EventSource(ADDRESS);
      source.onmessage = hear;
      source.onopen = () => {
        const { reached } = useConnection.getState();
        useConnection.setState({ reached: true });
        // whatever happened while nothing could be heard
        if (!reached) void client.invalidateQueries();
      };
      source.onerror = () => {
        useConnection.setState({ reached: false });
        if (source.readyState !== EventSource.CLOSED) return;
        // refused: perhaps nobody is logged in any more
        void client.invalidateQueries({ queryKey: ["session"] });
        clearTimeout(again);
        again = setTimeout(open, AGAIN);
      };
    };
    open();
    return () => {
      source.close();
      clearTimeout(again);
      clearTimeout(soon);
    };
  }, []);
}
