/** Millimetres of the units that people write. */
const UNITS: Record<string, number> = {
  mm: 1,
  millimetre: 1,
  millimetres: 1,
  cm: 10,
  centimetre: 10,
  centimetres: 10,
  m: 1000,
  metre: 1000,
  metres: 1000,
  in: 25.4,
  inch: 25.4,
  inches: 25.4,
  '"': 25.4,
  "″": 25.4,
  ft: 304.8,
  foot: 304.8,
  feet: 304.8,
};

const WORDS = [
  "zero",
  "one",
  "two",
  "three",
  "four",
  "five",
  "six",
  "seven",
  "eight",
  "nine",
  "ten",
  "eleven",
  "twelve",
];

const NUMBER = `\\d+(?:[.,]\\d+)?|${WORDS.slice(1).join("|")}`;
/** A unit is a word of its own: "in" within "inside" is none, and neither is one before a number. */
const LENGTH = new RegExp(
  `(?<![\\w.,])(${NUMBER})[\\s-]*(${Object.keys(UNITS)
    .sort((a, b) => b.length - a.length)
    .join("|")})(?![\\w])`,
  "gi",
);

/** A length that somebody wrote: as it stands there, and in millimetres. */
export type Written = { words: string; mm: number };

/** The lengths in what a customer wrote, each once, in the order in which they stand there. */
export function lengthsIn(text: string): Written[] {
  const found = new Map<number, Written>();
  for (const [words, number, unit] of text.matchAll(LENGTH)) {
    const word = WORDS.indexOf(number!.toLowerCase());
    const value = word >= 0 ? word : Number(number!.replace(",", "."));
    const mm = Number((value * UNITS[unit!.toLowerCase()]!).toPrecision(12));
    if (mm > 0 && !found.has(mm)) found.set(mm, { words: words.trim(), mm });
  }
  return [...found.values()];
}
