import { useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { api, need } from "../api/client";

/** What happened to one item; asked anew each time it is looked at. */
export const useItemTrail = (id: number) =>
  useQuery({
    queryKey: ["trail", id],
    queryFn: () => need(api.GET("/api/items/{id}/trail", { params: { path: { id } } })),
    staleTime: 0,
  });

/** What happened in the shop, a page at a time. */
export const useShopTrail = () =>
  useInfiniteQuery({
    queryKey: ["trail"],
    queryFn: ({ pageParam }) =>
      need(api.GET("/api/trail", { params: { query: pageParam ? { before: pageParam } : {} } })),
    initialPageParam: "",
    getNextPageParam: (last) => last.at(-1)?.at,
    staleTime: 0,
  });
