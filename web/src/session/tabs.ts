import { useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";

const CHANNEL = "session";

/** Tell the other tabs that somebody has logged in or out. */
export function tellOtherTabs(): void {
  if (typeof BroadcastChannel === "undefined") return;
  const channel = new BroadcastChannel(CHANNEL);
  channel.postMessage("changed");
  channel.close();
}

/** Ask who is logged in when another tab says that this has changed. */
export function useOtherTabs(): void {
  const queries = useQueryClient();
  useEffect(() => {
    if (typeof BroadcastChannel === "undefined") return undefined;
    const channel = new BroadcastChannel(CHANNEL);
    channel.onmessage = () => void queries.invalidateQueries({ queryKey: ["session"] });
    return () => channel.close();
  }, [queries]);
}
