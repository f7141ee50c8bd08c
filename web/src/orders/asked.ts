import { useMemo } from "react";
import { useSearchParams } from "react-router";
import type { paths } from "../api/schema";

type Query = NonNullable<paths["/api/items"]["get"]["parameters"]["query"]>;
/** What of all items is asked for; it lives in the address. */
export type Asked = Omit<Query, "page" | "size">;

/** Conditions in the order in which they are written into the address. */
const CONDITIONS = ["list", "q", "customer", "order", "material", "assignee", "due"] as const;
const DEFAULT_LIST = "open";
const DEFAULT_SORT = "due";

/** What an address asks for; what it does not name is left out. */
export function askedIn(params: URLSearchParams): Asked {
  const found: Record<string, string> = { list: DEFAULT_LIST, sort: DEFAULT_SORT };
  for (const name of [...CONDITIONS, "sort"]) {
    const value = params.get(name);
    if (value) found[name] = value;
  }
  return found;
}

/** An address that asks for something; what is usual is not written. */
export function addressOf(asked: Asked): URLSearchParams {
  const told = new URLSearchParams();
  for (const name of CONDITIONS) {
    const value = asked[name];
    if (value && !(name === "list" && value === DEFAULT_LIST)) told.set(name, value);
  }
  if (asked.sort && asked.sort !== DEFAULT_SORT) told.set("sort", asked.sort);
  return told;
}

/** What is asked for now, and what changes it. */
export function useAsked(): [asked: Asked, ask: (part: Asked) => void] {
  const [params, setParams] = useSearchParams();
  const asked = useMemo(() => askedIn(params), [params]);
  return [asked, (part) => setParams(addressOf({ ...asked, ...part }), { replace: true })];
}

/** The sort that a click on a column's head asks for: forwards, then backwards. */
export const sortedBy = (column: string, now: string | undefined) =>
  (now === column ? `-${column}` : column) as Asked["sort"];
