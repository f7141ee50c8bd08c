import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, type Machine, need, type RuleSheet } from "../api/client";

export const useDemands = () =>
  useQuery({
    queryKey: ["demands"],
    queryFn: () => need(api.GET("/api/demands")),
    staleTime: Infinity,
  });

export const useEditions = (key: string | undefined) =>
  useQuery({
    queryKey: ["editions", key],
    queryFn: () =>
      need(api.GET("/api/materials/{key}/editions", { params: { path: { key: key ?? "" } } })),
    enabled: key !== undefined,
  });

export const useMachines = () =>
  useQuery({ queryKey: ["machines"], queryFn: () => need(api.GET("/api/machines")) });

export const useShop = () =>
  useQuery({ queryKey: ["shop"], queryFn: () => need(api.GET("/api/shop")) });

/** Settle the shop's limits and policy anew. */
export function useSettle() {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: (values: Record<string, unknown>) =>
      need(api.PUT("/api/shop", { body: { values } })),
    onSuccess: (told) => queries.setQueryData(["shop"], told),
  });
}

/** What the lead can do to sheets and machines; each refreshes what it changes. */
export function useChanges() {
  const queries = useQueryClient();
  const change = <V, R>(ask: (given: V) => Promise<R>) => ({
    mutationFn: ask,
    onSettled: () =>
      Promise.all(
        [["materials"], ["editions"], ["machines"]].map((queryKey) =>
          queries.invalidateQueries({ queryKey }),
        ),
      ),
  });
  return {
    edit: useMutation(
      change(({ rules, why }: { rules: RuleSheet; why: string }) =>
        need(
          api.PUT("/api/materials/{key}", {
            params: { path: { key: rules.key } },
            body: { rules, why },
          }),
        ),
      ),
    ),
    bring: useMutation(
      change((given: { sheets: unknown[]; why?: string }) =>
        need(api.POST("/api/materials/bring", { body: given })),
      ),
    ),
    addMachine: useMutation(
      change((body: Omit<Machine, "id">) => need(api.POST("/api/machines", { body }))),
    ),
    dropMachine: useMutation(
      change((id: number) => need(api.DELETE("/api/machines/{id}", { params: { path: { id } } }))),
    ),
  };
}
