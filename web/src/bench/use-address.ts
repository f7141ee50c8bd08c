import { useEffect } from "react";
import { useSearchParams } from "react-router";
import { useBench } from "./store";

/** How each part of what is looked at is called in the address. */
const QUESTION = "question";
const FINDING = "finding";
const REVISION = "revision";

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
    const { reset, open, choose, view } = useBench.getState();
    reset();
    const question = params.get(QUESTION);
    const [finding, revision] = [numberIn(params, FINDING), numberIn(params, REVISION)];
    if (revision !== null) view(revision);
    if (question) open(question);
    if (finding !== null) choose(finding);
    // the address is read once for each item; from then on it follows
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [item]);
  useEffect(
    () =>
      useBench.subscribe(({ question, chosen, viewing }, before) => {
        const same =
          question === before.question && chosen === before.chosen && viewing === before.viewing;
        if (same) return;
        setParams(
          (now) => {
            const told = { [QUESTION]: question, [FINDING]: chosen, [REVISION]: viewing };
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
