import type { Question, Revision } from "../api/client";
import { plural } from "../ui/format";
import type { Row } from "./rows";

const NUMBERS = ["no", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine"];
export const inWords = (n: number) => NUMBERS[n] ?? String(n);

/** The answer to a question in one sentence, and what stands behind it. */
export function verdictOf(revision: Revision, question: Question, rows: Row[]) {
  const leaks = rows.filter((row) => row.finding.severity === "leak");
  if (question.key === "size") return sizeVerdict(revision, rows);
  const calls = listOf(question, rows, "call");
  if (leaks.length) {
    return {
      title: `The skin leaks at ${leaks.length === 1 ? "one place" : `${inWords(leaks.length)} places`}.`,
      about: `${listOf(question, rows, "leak")}.${calls && ` Your call: ${calls.toLowerCase()}.`}`,
    };
  }
  return {
    title: "The skin is tight.",
    about: `Watertight, manifold and facing outward: ${plural(revision.report.triangles, "triangle")} in ${plural(revision.report.shells, "shell")}, examined in ${revision.report.seconds.toFixed(1)} s.`,
  };
}

function sizeVerdict(revision: Revision, rows: Row[]) {
  const { report } = revision;
  const longest = Math.max(...report.size_mm).toFixed(1);
  return rows.length
    ? { title: `${longest} mm long: is that meant?`, about: report.unit_reason }
    : { title: `${longest} mm long.`, about: report.unit_reason };
}

/** How many places of each kind, of one severity: "Two holes, one crack". */
function listOf(question: Question, rows: Row[], severity: string): string {
  const list = question.kinds
    .map(({ kind, one, many }) => {
      const n = rows.filter(
        (row) => row.finding.kind === kind && row.finding.severity === severity,
      ).length;
      return n ? `${inWords(n)} ${n === 1 ? one : many}` : "";
    })
    .filter(Boolean)
    .join(", ");
  return list.charAt(0).toUpperCase() + list.slice(1);
}
