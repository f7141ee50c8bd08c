import {
  MutationCache,
  QueryCache,
  QueryClient,
  useMutation,
  useQuery,
  useQueryClient,
  queryOptions,
} from "@tanstack/react-query";
import {
  api,
  type Job,
  type LetterText,
  need,
  Refusal,
  type ReleaseFormat,
  type Session,
  upload,
} from "./client";

const FORBIDDEN = 403;

const NOT_FOUND = 404;

/** Whether something is not there any more, or never was. */
export const isGone = (problem: Error | null) =>
  problem instanceof Refusal && problem.status === NOT_FOUND;

/** A session that ended shows as a refusal: then it is asked who is logged in. */
const onError = (problem: Error) => {
  if (problem instanceof Refusal && problem.status === FORBIDDEN) {
    void client.invalidateQueries({ queryKey: ["session"] });
  }
};

export const client: QueryClient = new QueryClient({
  queryCache: new QueryCache({ onError }),
  mutationCache: new MutationCache({ onError }),
  defaultOptions: {
    queries: {
      retry: (count, problem) => !(problem instanceof Refusal && problem.status > 0) && count < 3,
      refetchOnWindowFocus: true,
      staleTime: 2_000,
    },
  },
});

const FOR_EVER = { staleTime: Infinity, gcTime: 600_000 };

export const isOpen = (job: Job | null | undefined) =>
  job?.state === "waiting" || job?.state === "running";

/** Who is logged in; `left` where somebody just logged out, so that nothing of theirs stays. */
type SessionNow = Session & { left?: boolean };

export const useSession = () =>
  useQuery({
    queryKey: ["session"],
    queryFn: async (): Promise<SessionNow> => need(api.GET("/api/session")),
    staleTime: 60_000,
  });

export const itemQuery = (id: number) =>
  queryOptions({
    queryKey: ["item", id],
    queryFn: () => need(api.GET("/api/items/{id}", { params: { path: { id } } })),
  });

export const useItem = (id: number) => useQuery(itemQuery(id));

/** A revision as one of its examinations found it; neither ever changes. */
export const revisionQuery = (id: number | null, examination: number | undefined) =>
  queryOptions({
    queryKey: ["revision", id, examination],
    queryFn: () =>
      need(
        api.GET("/api/revisions/{id}", {
          params: { path: { id: id ?? 0 }, query: examination ? { examination } : {} },
        }),
      ),
    enabled: id !== null,
    ...FOR_EVER,
  });

export const useRevision = (id: number | null, examination: number | undefined) =>
  useQuery({ ...revisionQuery(id, examination), placeholderData: (before) => before });

/** How the questions stand for a revision that does not hold; asked anew as decisions change. */
export const useStand = (revision: number | null, restsOn: string) =>
  useQuery({
    queryKey: ["stand", revision, restsOn],
    queryFn: () =>
      need(api.GET("/api/revisions/{id}/stand", { params: { path: { id: revision ?? 0 } } })),
    enabled: revision !== null,
    placeholderData: (before) => before,
  });

export const useJobs = () =>
  useQuery({
    queryKey: ["jobs"],
    queryFn: () => need(api.GET("/api/jobs")),
  });

/** Everybody who has an account. */
export const useAccounts = () =>
  useQuery({ queryKey: ["accounts"], queryFn: () => need(api.GET("/api/accounts")) });

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

/** The release as it would go; asked anew whenever what it rests on has changed. */
export const useProposal = (item: number, restsOn: string | null) =>
  useQuery({
    queryKey: ["proposal", item, restsOn],
    queryFn: () => need(api.GET("/api/items/{id}/release", { params: { path: { id: item } } })),
    enabled: restsOn !== null,
    placeholderData: (before) => before,
  });

/** Work that this page has started: what it makes is followed, what others make is only told. */
export const STARTED = new Set<number>();

const started = (job: Job) => {
  STARTED.add(job.id);
  return job;
};

/** What can be asked of the server about one item; each refreshes what it changes. */
export function useItemActions(id: number) {
  const queries = useQueryClient();
  const params = { path: { id } };
  const refresh = () =>
    Promise.all(
      [["item", id], ["items"], ["counts"], ["jobs"]].map((queryKey) =>
        queries.invalidateQueries({ queryKey }),
      ),
    );
  const action = <V, R>(ask: (given: V) => Promise<R>) => ({
    mutationFn: ask,
    onSettled: refresh,
  });
  /** Every change names the revision that was looked at. */
  type Seen = { revision: number };
  return {
    mend: useMutation(
      action(async (body: Seen) =>
        started(await need(api.POST("/api/items/{id}/mend", { params, body }))),
      ),
    ),
    operate: useMutation(
      action(async (body: Seen & { operation: string; parameters?: Record<string, unknown> }) =>
        started(await need(api.POST("/api/items/{id}/operate", { params, body }))),
      ),
    ),
    release: useMutation(
      action(async (body: Seen & { format: ReleaseFormat; letter: LetterText; rests_on: string }) =>
        started(await need(api.POST("/api/items/{id}/release", { params, body }))),
      ),
    ),
    note: useMutation(
      action(({ revision, ...body }: { revision: number; name: string; note: string }) =>
        need(api.PUT("/api/revisions/{id}/note", { params: { path: { id: revision } }, body })),
      ),
    ),
    takeBack: useMutation(
      action(({ release, reason }: { release: number; reason: string }) =>
        need(
          api.POST("/api/releases/{id}/withdraw", {
            params: { path: { id: release } },
            body: { reason },
          }),
        ),
      ),
    ),
    returnTo: useMutation(
      action((body: Seen & { to: number }) =>
        need(api.POST("/api/items/{id}/current", { params, body })),
      ),
    ),
    judge: useMutation(
      action((body: Seen) => need(api.POST("/api/items/{id}/judge", { params, body }))),
    ),
    material: useMutation(
      action((body: Seen & { material: string; reason: string }) =>
        need(api.POST("/api/items/{id}/material", { params, body })),
      ),
    ),
    accept: useMutation(
      action(
        (
          body: Seen & {
            examination: number;
            kind: string;
            places: number[] | null;
            listed: number;
            reason: string;
          },
        ) => need(api.POST("/api/items/{id}/decisions", { params, body })),
      ),
    ),
    apart: useMutation(
      action((body: Seen & { pieces: number[]; reason: string }) =>
        need(api.POST("/api/items/{id}/apart", { params, body })),
      ),
    ),
    name: useMutation(
      action(({ number, name }: { number: number; name: string }) =>
        need(
          api.PUT("/api/items/{id}/pieces/{number}", {
            params: { path: { id, number } },
            body: { name },
          }),
        ),
      ),
    ),
    derive: useMutation(
      action(
        async (
          body: Seen & { pieces: number[]; name: string; each: boolean; take_out: boolean },
        ) => {
          const made = await need(api.POST("/api/items/{id}/pieces", { params, body }));
          if (made.job !== null) STARTED.add(made.job);
          return made;
        },
      ),
    ),
    withdraw: useMutation(
      action(
        ({ decision, ...body }: { decision: number; places: number[] | null; reason: string }) =>
          need(
            api.POST("/api/decisions/{id}/withdraw", { params: { path: { id: decision } }, body }),
          ),
      ),
    ),
    setAside: useMutation(
      action((body: { aside: boolean; reason: string }) =>
        need(api.POST("/api/items/{id}/set-aside", { params, body })),
      ),
    ),
    replace: useMutation(
      action(async (body: { file: File; reason: string }) =>
        started(await upload<Job>(`/api/items/${id}/replace`, body)),
      ),
    ),
    read: useMutation(
      action(async () => started(await need(api.POST("/api/items/{id}/read", { params })))),
    ),
    write: useMutation(
      action((body: { text: string }) =>
        need(api.POST("/api/items/{id}/letters", { params, body })),
      ),
    ),
    comment: useMutation(
      action((body: { text: string }) =>
        need(api.POST("/api/items/{id}/comments", { params, body })),
      ),
    ),
    assign: useMutation(
      action((body: { assignee: string }) =>
        need(api.POST("/api/items/{id}/assignee", { params, body })),
      ),
    ),
    cancel: useMutation(
      action((job: number) =>
        need(api.POST("/api/jobs/{id}/cancel", { params: { path: { id: job } } })),
      ),
    ),
  };
}
