import { useEffect, useMemo } from "react";
import type { Item, Question } from "../api/client";
import { useQuestions } from "../api/queries";
import { nestedPieces, pieceName } from "./pieces";
import { type Row, rowsOf } from "./rows";
import { useBench } from "./store";
import type { Shown } from "./use-shown";

/** What the ledger lists: the open question, the places found for it, and the pieces. */
export type LedgerState = {
  /** Key of the open question, *release* included. */
  open: string;
  question: Question | undefined;
  rows: Row[];
  chosen: Row | undefined;
  pieces: ReturnType<typeof nestedPieces>;
  nameOf: (shell: number) => string;
};

export function useLedger(item: Item, { revision }: Shown): LedgerState {
  const names = item.piece_names;
  const asked = useBench((bench) => bench.question);
  const number = useBench((bench) => bench.chosen);
  const questions = useQuestions().data;
  const needed = item.seam.find((s) => s.state === "leaks" || s.state === "your call")?.question;
  const examined = item.current !== null;
  const open = asked ?? needed ?? "closed";
  // what an item opens on stays open, whatever is answered meanwhile: nobody is led to a release
  useEffect(() => {
    if (asked === null && examined) useBench.getState().open(open);
  }, [asked, open, examined]);
  const question = questions?.find((one) => one.key === open);
  const rows = useMemo(
    () => (revision && question ? rowsOf(revision, question) : []),
    [revision, question],
  );
  const pieces = useMemo(() => nestedPieces(revision?.report.pieces, names), [revision, names]);
  return useMemo(
    () => ({
      open,
      question,
      rows,
      chosen: rows.find((row) => row.number === number),
      pieces,
      nameOf: (shell: number) => {
        const one = pieces.find((piece) => piece.shell === shell);
        return one ? pieceName(one) : "Beside all pieces";
      },
    }),
    [open, question, rows, number, pieces],
  );
}

/** Choose a row of the ledger and look at its place, or let go of the one that is chosen. */
export function chooseRow(row: Row): void {
  const { chosen, choose, goTo } = useBench.getState();
  if (row.number === chosen) {
    choose(null);
    return;
  }
  choose(row.number);
  goTo(row.spot.box as [number[], number[]], row.spot.facing);
}
