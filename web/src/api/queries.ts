import { QueryClient, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { api, type Job, need, Refusal, type ReleaseFormat } from "./client";

export const client = new QueryClient({
  defaultOptions: {
    queries: {
      retry: (count, problem) => !(problem instanceof Refusal && problem.status > 0) && count < 3,
      refetchOnWindowFocus: true,
      staleTime: 2_000,
    },
  },
});

const WHILE_WORKING = 500;
const WHILE_IDLE = 6_000;
const FOR_EVER = { staleTime: Infinity, gcTime: 600_000 };

export const isOpen = (job: Job | null | undefined) =>
  job?.state === "waiting" || job?.state === "running";

export const useSession = () =>
  useQuery({
    queryKey: ["session"],
    queryFn: () => need(api.GET("/api/session")),
    staleTime: 60_000,
  });

export const useItems = () =>
  useQuery({
    queryKey: ["items"],
    queryFn: () => need(api.GET("/api/items")),
    refetchInterval: ({ state }) =>
      state.data?.some((item) => isOpen(item.job)) ? WHILE_WORKING : WHILE_IDLE,
  });

export const useItem = (id: number) =>
  useQuery({
    queryKey: ["item", id],
    queryFn: () => need(api.GET("/api/items/{id}", { params: { path: { id } } })),
    refetchInterval: ({ state }) => (isOpen(state.data?.job) ? WHILE_WORKING : WHILE_IDLE),
  });

export const useRevision = (id: number | null) =>
  useQuery({
    queryKey: ["revision", id],
    queryFn: () => need(api.GET("/api/revisions/{id}", { params: { path: { id: id ?? 0 } } })),
    enabled: id !== null,
    placeholderData: (before) => before,
    ...FOR_EVER,
  });

export const useJobs = () =>
  useQuery({
    queryKey: ["jobs"],
    queryFn: () => need(api.GET("/api/jobs")),
    refetchInterval: ({ state }) => (state.data?.length ? 1_000 : WHILE_IDLE),
  });

export const useMaterials = () =>
  useQuery({
    queryKey: ["materials"],
    queryFn: () => need(api.GET("/api/materials")),
  });

export const useCustomers = () =>
  useQuery({ queryKey: ["customers"], queryFn: () => need(api.GET("/api/customers")) });

export const useOrders = () =>
  useQuery({ queryKey: ["orders"], queryFn: () => need(api.GET("/api/orders")) });

export const useOperations = () =>
  useQuery({
    queryKey: ["operations"],
    queryFn: () => need(api.GET("/api/operations")),
    ...FOR_EVER,
  });

/** What an operation would leave and take, for parameters as JSON; null asks nothing. */
export const useCost = (revision: number | null, operation: string, parameters: string) =>
  useQuery({
    queryKey: ["cost", revision, operation, parameters],
    queryFn: () =>
      need(
        api.POST("/api/revisions/{id}/cost", {
          params: { path: { id: revision ?? 0 } },
          body: { operation, parameters: JSON.parse(parameters) as Record<string, unknown> },
        }),
      ),
    enabled: revision !== null,
    placeholderData: (before) => before,
    ...FOR_EVER,
  });

export const useQuestions = () =>
  useQuery({
    queryKey: ["questions"],
    queryFn: () => need(api.GET("/api/questions")),
    ...FOR_EVER,
  });

/** What can be asked of the server about one item; each refreshes what it changes. */
export function useItemActions(id: number) {
  const queries = useQueryClient();
  const params = { path: { id } };
  const refresh = () =>
    Promise.all(
      [["item", id], ["items"], ["jobs"]].map((queryKey) =>
        queries.invalidateQueries({ queryKey }),
      ),
    );
  const action = <V>(ask: (given: V) => Promise<unknown>) => ({
    mutationFn: ask,
    onSettled: refresh,
  });
  return {
    mend: useMutation(
      action((apart: number[]) =>
        need(api.POST("/api/items/{id}/mend", { params, body: { apart } })),
      ),
    ),
    operate: useMutation(
      action((body: { operation: string; parameters?: Record<string, unknown> }) =>
        need(api.POST("/api/items/{id}/operate", { params, body })),
      ),
    ),
    release: useMutation(
      action((format: ReleaseFormat) =>
        need(api.POST("/api/items/{id}/release", { params, body: { format } })),
      ),
    ),
    returnTo: useMutation(
      action((revision: number) =>
        need(api.POST("/api/items/{id}/current", { params, body: { revision } })),
      ),
    ),
    judge: useMutation(
      action((body: { material: string; why?: string }) =>
        need(api.POST("/api/items/{id}/judge", { params, body })),
      ),
    ),
    waive: useMutation(
      action((body: { kind: string; reason: string }) =>
        need(api.POST("/api/items/{id}/waivers", { params, body })),
      ),
    ),
    cancel: useMutation(
      action((job: number) =>
        need(api.POST("/api/jobs/{id}/cancel", { params: { path: { id: job } } })),
      ),
    ),
  };
}
