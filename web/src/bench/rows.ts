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

/** The thickness of a wall as a chart writes it; empty for what has none. */
export const depthOf = (row: Row) => row.spot.thickness_mm?.toFixed(2) ?? "";

/** How large a place is: the longest side of its box, mm. */
export function sizeOfPlace({ spot }: Row): number {
  const [low, high] = spot.box;
  return Math.max(...low!.map((x, k) => high![k]! - x));
}

/** What of a ledger is listed, and in which order. */
export type Listing = {
  /** Of one kind of finding only. */
  kind: string | null;
  /** As large as this at least, mm. */
  least: number;
  sort: "worst" | "largest" | "smallest";
};

export const ALL_LISTED: Listing = { kind: null, least: 0, sort: "worst" };

/** The rows that are listed; their numbers stay. */
export function listedOf(rows: readonly Row[], { kind, least, sort }: Listing): Row[] {
  const kept = rows.filter(
    (row) => (kind === null || row.finding.kind === kind) && sizeOfPlace(row) >= least,
  );
  if (sort === "worst") return kept;
  const way = sort === "largest" ? -1 : 1;
  return kept.sort((a, b) => way * (sizeOfPlace(a) - sizeOfPlace(b)) || a.number - b.number);
}
