import type { Finding, Question, Revision, Spot } from "../api/client";

/** One line of the ledger: one place of a finding. */
export type Row = {
  /** As shown in the ledger and in the view, from 1. */
  number: number;
  finding: Finding;
  spot: Spot;
  /** Number of the place within its finding, from 1, as operations want it. */
  place: number;
  /** Number of the place among all marks of the revision, from 0. */
  mark: number;
};

/** The ledger of a question: its findings in the question's order, the worst place first. */
export function rowsOf(revision: Revision, question: Question): Row[] {
  const first = new Map<Finding, number>();
  let marks = 0;
  for (const finding of revision.report.findings) {
    first.set(finding, marks);
    marks += finding.spots.length;
  }
  const rows: Row[] = [];
  for (const { kind } of question.kinds) {
    const finding = revision.report.findings.find((one) => one.kind === kind);
    finding?.spots.forEach((spot, i) =>
      rows.push({
        number: rows.length + 1,
        finding,
        spot,
        place: i + 1,
        mark: first.get(finding)! + i,
      }),
    );
  }
  return rows;
}

/** The number that a measure begins with: "0.45" of "0.45 of 0.90 mm". */
export const depthOf = (row: Row) => /^[\d.]+/.exec(row.spot.measure)?.[0] ?? "";

/** What a measure is held against: 0.9 of "0.45 of 0.90 mm"; null if it tells nothing of that. */
export function limitOf(row: Row): number | null {
  const asked = / of ([\d.]+) mm$/.exec(row.spot.measure)?.[1];
  return asked === undefined ? null : Number(asked);
}
