import type { Report, Revision } from "../api/client";
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

type Line = { title: string; of: (revision: Revision) => string };

/** Every figure by which revisions are held against each other; those of walls by their kind. */
export function linesFor(
  revisions: readonly Revision[],
  material: string,
  quantity: number,
): Line[] {
  const kinds = new Map(
    revisions.flatMap(({ report }) => report.thinnest.map((one) => [one.kind, one.title])),
  );
  const walls = [...kinds].map(([kind, title]): Line => ({
    title: `${title}, thinnest`,
    of: ({ report }) => {
      const one = report.thinnest.find((other) => other.kind === kind);
      if (!one) return "not measured";
      return one.thickness_mm === null
        ? `over ${one.beyond_mm.toFixed(1)} mm`
        : `${one.thickness_mm.toFixed(2)} mm`;
    },
  }));
  const lines: Line[] = [
    { title: "Size", of: ({ report }) => sizeOf(report.size_mm) },
    { title: "Triangles", of: ({ report }) => count(report.triangles) },
    { title: "Binary STL", of: ({ report }) => bytes(stlBytes(report.triangles)) },
    { title: "Volume", of: ({ report }) => cm3(report.volume_mm3) },
    { title: "Area", of: ({ report }) => cm2(report.area_mm2) },
    { title: "Pieces", of: ({ report }) => count(report.shells) },
    { title: "Weight", of: ({ report }) => weightOf(report, material) },
    { title: `Price of ${quantity}`, of: ({ report }) => priceOf(report, material, quantity) },
    ...walls,
    { title: "Closed", of: (one) => (one.tight ? "tight" : "leaks") },
  ];
  return lines.filter(({ of }) => revisions.some((one) => of(one) !== ""));
}
