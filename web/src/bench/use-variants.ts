import { useQuery } from "@tanstack/react-query";
import { api, type Item, type ItemLine, need } from "../api/client";

/** Items of one order that are offered: more than an order has as a rule, and all that the list
 * gives at once. */
export const MOST = 500;

/** The other items of an item's order that have been read, as they stand now. */
export function useVariants(item: Pick<Item, "id" | "order">): ItemLine[] {
  const { number } = item.order;
  const found = useQuery({
    queryKey: ["items", "of order", number],
    queryFn: () =>
      need(api.GET("/api/items", { params: { query: { order: number, size: MOST } } })),
  }).data;
  return (found?.results ?? []).filter((one) => one.id !== item.id && one.current !== null);
}
