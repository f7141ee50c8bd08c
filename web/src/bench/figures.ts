import type { Report, Revision, RevisionLine } from "../api/client";
import { bytes, cm2, cm3, count, sizeOf } from "../ui/format";

/** Bytes of a binary STL of so many triangles. */
const stlBytes = (triangles: number) => 84 + 50 * triangles;

const verdictIn = (report: Report, material: string) =>
  report.verdicts.find((one) => one.key === material);

/** Weight in a material; nothing where it has no rules. */
export const weightOf = (report: Report, material: string) => {
  const verdict = verdictIn(report, material);
  return verdict ? `${verdict.weight_g.toFixed(1)} g` : "";
};

/** What so many cost in a material. */
export const priceOf = (report: Report, material: string, quantity: number) => {
  const verdict = verdictIn(report, material);
  return verdict ? (verdict.price * quantity).toFixed(2) : "";
};

/** The thinnest wall that was measured, of all kinds. */
export function thinnestOf(report: Report): string {
  const known = report.thinnest.flatMap((one) => one.thickness_mm ?? []);
  if (known.length) return `${Math.min(...known).toFixed(2)} mm`;
  const beyond = report.thinnest.map((one) => one.beyond_mm);
  return beyond.length ? `over ${Math.min(...beyond).toFixed(1)} mm` : "";
}

export const calledOf = (one: Pick<RevisionLine, "number" | "name" | "title">) =>
  `${one.number} ${one.name || one.title}`;

/** A revision as a column of the table: with the material and the number that are ordered of it. */
export type Column = { revision: Revision; material: string; quantity: number };

type Line = { title: string; of: (column: Column) => string };

/** Every figure by which revisions are held against each other; those of walls by their kind. */
export function linesFor(columns: readonly Column[]): Line[] {
  const kinds = new Map(
    columns.flatMap(({ revision: { report } }) =>
      report.thinnest.map((one) => [one.kind, one.title]),
    ),
  );
  const walls = [...kinds].map(([kind, title]): Line => ({
    title: `${title}, thinnest`,
    of: ({ revision: { report } }) => {
      const one = report.thinnest.find((other) => other.kind === kind);
      if (!one) return "not measured";
      return one.thickness_mm === null
        ? `over ${one.beyond_mm.toFixed(1)} mm`
        : `${one.thickness_mm.toFixed(2)} mm`;
    },
  }));
  const told = (title: string, of: (report: Report) => string): Line => ({
    title,
    of: ({ revision }) => of(revision.report),
  });
  const quantities = new Set(columns.map((one) => one.quantity));
  const [same] = quantities.size === 1 ? quantities : [];
  const lines: Line[] = [
    told("Size", (report) => sizeOf(report.size_mm)),
    told("Triangles", (report) => count(report.triangles)),
    told("Binary STL", (report) => bytes(stlBytes(report.triangles))),
    told("Volume", (report) => cm3(report.volume_mm3)),
    told("Area", (report) => cm2(report.area_mm2)),
    told("Pieces", (report) => count(report.shells)),
    {
      title: "Weight",
      of: ({ revision, material }) => weightOf(revision.report, material),
    },
    {
      title: same ? `Price of ${same}` : "Price",
      of: ({ revision, material, quantity }) => {
        const price = priceOf(revision.report, material, quantity);
        return price && !same ? `${price} for ${quantity}` : price;
      },
    },
    ...walls,
    { title: "Closed", of: ({ revision }) => (revision.tight ? "tight" : "leaks") },
  ];
  return lines.filter(({ of }) => columns.some((one) => of(one) !== ""));
}
