import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useMemo } from "react";
import { type Account, api, type Job, need, type RevisionLine } from "../api/client";
import { isOpen, revisionQuery } from "../api/queries";
import { useWorkingPerson } from "../session/person";

/** How far two revisions are apart, as far as that is known. */
export type Compared = {
  /** As if the one had been made of the other; null until it is known. */
  account: Account | null;
  /** The work on it, while it goes on. */
  job: Job | null;
  /** Why it is not known and nothing goes on: it was stopped, fell, or one may only look. */
  problem: string | undefined;
  start: () => void;
  stop: () => void;
};

type One = Pick<RevisionLine, "id" | "parent" | "examination">;

/** Whether the one was made of the other: then its own account tells what there is to tell. */
export const isMadeOf = (revision: Pick<RevisionLine, "parent">, of: { id: number }) =>
  revision.parent === of.id;

/**
 * Hold a revision against another one; what is not known is computed once, for everybody.
 *
 * @param item Key of the item of the revision: what is told of it is asked again as its work goes on.
 */
export function useComparison(
  item: number,
  revision: One | undefined,
  against: { id: number } | undefined,
): Compared {
  const queries = useQueryClient();
  const mayChange = useWorkingPerson()?.may_change ?? true;
  const direct = revision && against && isMadeOf(revision, against) ? revision : null;
  const own = useQuery(revisionQuery(direct?.id ?? null, direct?.examination)).data;
  const asked = !direct && revision && against ? { id: revision.id, against: against.id } : null;
  const queryKey = ["item", item, "comparison", asked?.id, asked?.against];
  const known = useQuery({
    queryKey,
    queryFn: () =>
      need(
        api.GET("/api/revisions/{id}/comparisons/{against}", {
          params: { path: asked ?? { id: 0, against: 0 } },
        }),
      ),
    enabled: asked !== null,
  });
  const ask = useMutation({
    mutationFn: ({ id, against }: { id: number; against: number }) =>
      need(
        api.POST("/api/revisions/{id}/comparisons", {
          params: { path: { id } },
          body: { against },
        }),
      ),
    onSuccess: (told) => queries.setQueryData(queryKey, told),
  });
  const cancel = useMutation({
    mutationFn: (job: number) =>
      need(api.POST("/api/jobs/{id}/cancel", { params: { path: { id: job } } })),
    onSettled: () => queries.invalidateQueries({ queryKey }),
  });
  const { mutate } = ask;
  // nobody has asked for it yet
  const due = asked !== null && known.data !== undefined && !known.data.account && !known.data.job;
  const { id, against: other } = asked ?? { id: null, against: null };
  useEffect(() => {
    if (due && mayChange && id !== null) mutate({ id, against: other });
  }, [due, mayChange, id, other, mutate]);
  const { mutate: stop } = cancel;
  const { account = null, job = null } = direct ? { account: own?.account } : (known.data ?? {});
  const problem = (ask.error ?? known.error)?.message ?? whyNot(known.data, due && !mayChange);
  return useMemo(
    () => ({
      account,
      job: isOpen(job) ? job : null,
      problem,
      start: () => {
        if (id !== null && mayChange) mutate({ id, against: other });
      },
      stop: () => {
        if (job) stop(job.id);
      },
    }),
    [account, job, problem, id, other, mayChange, mutate, stop],
  );
}

/** Why nothing is known of two, and nothing goes on. */
function whyNot(
  known: { account: Account | null; job: Job | null } | undefined,
  mayNotAsk: boolean,
): string | undefined {
  if (!known || known.account || isOpen(known.job)) return undefined;
  if (known.job) return known.job.message;
  return mayNotAsk ? "Nobody has had these two compared yet." : undefined;
}
