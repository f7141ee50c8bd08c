import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, type KeptMeasure, need } from "../api/client";
import type { Measured } from "./measure";

// with the item: when that changes for somebody else, these are asked for anew, too
const keyOf = (item: number, revision: number | null) => ["item", item, "measures", revision];

/** What was measured on a revision and kept, and how to keep, name and let go of it. */
export function useKeptMeasures(item: number, revision: number | null) {
  const queries = useQueryClient();
  const kept = useQuery({
    queryKey: keyOf(item, revision),
    enabled: revision !== null,
    queryFn: () =>
      need(api.GET("/api/revisions/{id}/measures", { params: { path: { id: revision! } } })),
  });
  const onSettled = () => queries.invalidateQueries({ queryKey: keyOf(item, revision) });
  const keep = useMutation({
    mutationFn: ({ kind, value, between, line }: Measured) => {
      if (kind === "piece") throw new Error("What a piece measures stands under Pieces.");
      return need(
        api.POST("/api/revisions/{id}/measures", {
          params: { path: { id: revision! } },
          body: { kind, value, between, line, name: "" },
        }),
      );
    },
    onSettled,
  });
  const name = useMutation({
    mutationFn: ({ id, name }: { id: number; name: string }) =>
      need(api.PATCH("/api/measures/{id}", { params: { path: { id } }, body: { name } })),
    onSettled,
  });
  const letGo = useMutation({
    mutationFn: (id: number) =>
      need(api.DELETE("/api/measures/{id}", { params: { path: { id } } })),
    onSettled,
  });
  return { kept: kept.data ?? NONE, keep, name, letGo };
}

const NONE: KeptMeasure[] = [];
