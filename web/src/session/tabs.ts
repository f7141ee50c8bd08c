import { useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";

const CHANNEL = "session";

type Said = "changed" | "left";

/** Tell the other tabs that somebody has logged in or out. */
export function tellOtherTabs(what: Said = "changed"): void {
  if (typeof BroadcastChannel === "undefined") return;
  const channel = new BroadcastChannel(CHANNEL);
  channel.postMessage(what);
  channel.close();
}

/** Ask who is logged in when another tab says that this has changed. */
export function useOtherTabs(): void {
  const queries = useQueryClient();
  useEffect(() => {
    if (typeof BroadcastChannel === "undefined") return undefined;
    const channel = new BroadcastChannel(CHANNEL);
    channel.onmessage = ({ data }: MessageEvent<Said>) => {
      // who logs out here is logged out everywhere; nothing of theirs stays on a screen
      if (data === "left") queries.setQueryData(["session"], { person: null, left: true });
      else void queries.invalidateQueries({ queryKey: ["session"] });
    };
    return () => channel.close();
  }, [queries]);
}
