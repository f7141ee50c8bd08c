import { useEffect } from "react";
import { useSearchParams } from "react-router";
import { useBench } from "./store";

/** How each part of what is looked at is called in the address. */
const QUESTION = "question";
const FINDING = "finding";
const REVISION = "revision";
/** What of a long ledger is listed. */
const KIND = "kind";
const LEAST = "over";
const ORDER = "order";

const numberIn = (params: URLSearchParams, name: string): number | null => {
  const value = Number(params.get(name) ?? "");
  return Number.isInteger(value) && value > 0 ? value : null;
};

/**
 * Question, finding and revision looked at live in the address: a reload, the way back and a link
 * that is passed on show the same.
 */
export function useAddress(item: number): void {
  const [params, setParams] = useSearchParams();
  useEffect(() => {
    const { reset, open, choose, view, list } = useBench.getState();
    reset();
    const question = params.get(QUESTION);
    const [finding, revision] = [numberIn(params, FINDING), numberIn(params, REVISION)];
    if (revision !== null) view(revision);
    if (question) open(question);
    if (finding !== null) choose(finding);
    const [kind, order] = [params.get(KIND), params.get(ORDER)];
    list({
      kind,
      least: Math.max(0, Number(params.get(LEAST) ?? 0) || 0),
      sort: order === "largest" || order === "smallest" ? order : "worst",
    });
    // the address is read once for each item; from then on it follows
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [item]);
  useEffect(
    () =>
      useBench.subscribe(({ question, chosen, viewing, listing }, before) => {
        const same =
          question === before.question &&
          chosen === before.chosen &&
          viewing === before.viewing &&
          listing === before.listing;
        if (same) return;
        setParams(
          (now) => {
            const told = {
              [QUESTION]: question,
              [FINDING]: chosen,
              [REVISION]: viewing,
              [KIND]: listing.kind,
              [LEAST]: listing.least || null,
              [ORDER]: listing.sort === "worst" ? null : listing.sort,
            };
            for (const [name, value] of Object.entries(told)) {
              if (value === null) now.delete(name);
              else now.set(name, String(value));
            }
            return now;
          },
          { replace: true },
        );
      }),
    [setParams],
  );
}
