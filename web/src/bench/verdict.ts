import type { Question, Report, Revision, Segment } from "../api/client";
import { count, plural } from "../ui/format";
import type { Row } from "./rows";

const NUMBERS = ["no", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine"];
export const inWords = (n: number) => NUMBERS[n] ?? count(n);

/** The answer to a question in one sentence, and what stands behind it. */
export function verdictOf(
  revision: Revision,
  question: Question,
  rows: Row[],
  /** Whether there are others, which somebody accepted. */
  accepted = false,
  /** How the question stands by the rules that hold now. */
  segment?: Segment,
) {
  const leaks = placesOf(rows, "leak");
  const asked = revision.report.questions.includes(question.key);
  if (segment?.state === "not run" && asked && !leaks) {
    const words = `${segment.text.charAt(0).toUpperCase()}${segment.text.slice(1)}.`;
    return {
      title: words,
      about: "The rules have changed since: what is listed was found by those of before.",
    };
  }
  if (question.key === "size") return sizeVerdict(revision, rows);
  if (!asked) {
    const why = revision.report.unasked.find((one) => one.question === question.key);
    const title = why?.reason === "not-measured" && segment ? segment.text : "not measured yet";
    return {
      title: `${title.charAt(0).toUpperCase()}${title.slice(1)}.`,
      about: why?.reason === "not-measured" ? "A large model takes a while." : (why?.about ?? ""),
    };
  }
  const calls = listOf(question, rows, "call");
  const words = WORDS[question.key as keyof typeof WORDS];
  if (leaks) {
    const n = leaks === 1 ? "one place" : `${inWords(leaks)} places`;
    return {
      title: words.leaks(n),
      about: `${listOf(question, rows, "leak")}.${calls && ` Your call: ${calls.toLowerCase()}.`}`,
    };
  }
  if (calls) return { title: "A person must decide.", about: `${calls}.` };
  if (accepted) return { title: "Accepted as it is.", about: "Each place says by whom, and why." };
  return { title: words.tight, about: words.about(revision.report) };
}

const WORDS = {
  closed: {
    leaks: (n: string) => `The skin leaks at ${n}.`,
    tight: "The skin is tight.",
    about: (report: Report) =>
      `Watertight, manifold and facing outward: ${plural(report.triangles, "triangle")} in ${plural(report.shells, "shell")}, examined in ${report.seconds.toFixed(1)} s.`,
  },
  inside: {
    leaks: (n: string) => `The inside is not clear at ${n}.`,
    tight: "Nothing inside.",
    about: () => "No voids, no solids within the solid, no debris.",
  },
  walls: {
    leaks: (n: string) => `Walls are too thin at ${n}.`,
    tight: "Thick enough everywhere.",
    about: () =>
      "Measured all over with the ball that fits inside and the ray to the other side, against the rules of the material ordered.",
  },
  solid: {
    leaks: (n: string) => `Pieces overlap at ${n}.`,
    tight: "Nothing crosses.",
    about: () => "No two triangles meet but in the vertices and edges they share.",
  },
};

function sizeVerdict(revision: Revision, rows: Row[]) {
  const { report } = revision;
  const longest = Math.max(...report.size_mm).toFixed(1);
  const kinds = new Set(rows.map((row) => row.finding.kind));
  const question = SIZE_QUESTIONS.find(([kind]) => kinds.has(kind))?.[1];
  return {
    title: question ? `${longest} mm long: ${question}` : `${longest} mm long.`,
    about: report.unit_reason,
  };
}

const SIZE_QUESTIONS = [
  ["unit-suspect", "is that meant?"],
  ["too-large", "too large to make in one."],
  ["too-small", "is that meant?"],
] as const;

/** The findings that the rows belong to. */
const findingsOf = (rows: Row[]) => [...new Set(rows.map((row) => row.finding))];

/** Places of one severity; a row may stand for many. */
const placesOf = (rows: Row[], severity: string) =>
  findingsOf(rows)
    .filter((finding) => finding.severity === severity)
    .reduce((n, finding) => n + finding.places, 0);

/** How many places of each kind, of one severity: "Two holes, one crack". */
function listOf(question: Question, rows: Row[], severity: string): string {
  const list = question.kinds
    .map(({ kind, one, many }) => {
      const n = placesOf(
        rows.filter((row) => row.finding.kind === kind),
        severity,
      );
      return n ? `${inWords(n)} ${n === 1 ? one : many}` : "";
    })
    .filter(Boolean)
    .join(", ");
  return list.charAt(0).toUpperCase() + list.slice(1);
}
