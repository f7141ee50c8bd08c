import { useMemo } from "react";
import { keepPreviousData, useMutation, useQueries, useQuery } from "@tanstack/react-query";
import { api, type ItemLine, need, type Outcome, type Together } from "../api/client";
import { client, useJobs } from "../api/queries";
import type { Asked } from "./asked";

const PAGE = 100;
/** Items that one action may be for; the server takes no more. */
const MOST_TOGETHER = 500;

const page = (asked: Asked, number: number, size: number) =>
  need(api.GET("/api/items", { params: { query: { ...asked, page: number, size } } }));

export type Rows = {
  /** How many there are in all; none while that is not known. */
  count: number | undefined;
  /** Those that were fetched, by their place in the list. */
  at: (index: number) => ItemLine | undefined;
  problem: Error | null;
};

/** The rows of the list that are in sight, a page at a time. */
export function useRows(asked: Asked, first: number, last: number): Rows {
  const from = Math.floor(first / PAGE);
  const pages = Array.from({ length: Math.floor(last / PAGE) - from + 1 }, (_, i) => from + i);
  return useQueries({
    queries: pages.map((number) => ({
      queryKey: ["items", asked, number],
      queryFn: () => page(asked, number + 1, PAGE),
      placeholderData: keepPreviousData,
    })),
    combine: (found) => ({
      count: found.find((one) => one.data)?.data?.count,
      at: (index: number) => {
        const of = Math.floor(index / PAGE) - from;
        return found[of]?.data?.results[index % PAGE];
      },
      problem: found.find((one) => one.error && !one.data)?.error ?? null,
    }),
  });
}

/** The same rows with how far work on them is by now: that changes all the time. */
export function useWorkGoingOn(rows: Rows): Rows {
  const jobs = useJobs().data;
  return useMemo(() => {
    const now = new Map(jobs?.map((one) => [one.id, one]));
    return {
      ...rows,
      at: (index) => {
        const item = rows.at(index);
        const job = item?.job && now.get(item.job.id);
        return item && job ? { ...item, job } : item;
      },
    };
  }, [rows, jobs]);
}

/** As many of the list as one action may be for, fetched now. */
export const allOf = async (asked: Asked) => (await page(asked, 1, MOST_TOGETHER)).results;

/** How many items the day's lists hold, and each customer has to do. */
export const useCounts = () =>
  useQuery({ queryKey: ["counts"], queryFn: () => need(api.GET("/api/items/counts")) });

/** How many items to do there are of a material. */
export const useInHand = (material: string | undefined) =>
  useQuery({
    queryKey: ["items", { list: "open", material }, "count"],
    queryFn: () => page({ list: "open", material }, 1, 1),
    enabled: material !== undefined,
    select: (found) => found.count,
  });

/** Do one thing for several items. */
export const useTogether = () =>
  useMutation({
    mutationFn: (body: Together): Promise<Outcome[]> =>
      need(api.POST("/api/items/together", { body })),
    onSettled: () =>
      Promise.all(
        ["items", "counts", "jobs"].map((key) => client.invalidateQueries({ queryKey: [key] })),
      ),
  });
