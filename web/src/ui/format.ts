/** Numbers as the whole interface writes them: always the same unit and precision. */

const whole = new Intl.NumberFormat("en-GB", { maximumFractionDigits: 0 });
const one = new Intl.NumberFormat("en-GB", { minimumFractionDigits: 1, maximumFractionDigits: 1 });
const two = new Intl.NumberFormat("en-GB", { minimumFractionDigits: 2, maximumFractionDigits: 2 });

export const count = (n: number) => whole.format(n);
/** Longest side up to which sides are told in millimetres; nobody prints what is longer. */
const LONG = 10_000;
export const sizeOf = (mm: readonly number[]) => {
  const [by, unit] = Math.max(...mm) > LONG ? [1000, "m"] : [1, "mm"];
  return `${mm.map((x) => one.format(x / by)).join(" × ")} ${unit}`;
};
export const cm3 = (mm3: number) => `${two.format(mm3 / 1000)} cm³`;
/** A volume in the unit that leaves something to read. */
export const volume = (mm3: number) => (Math.abs(mm3) < 10 ? `${two.format(mm3)} mm³` : cm3(mm3));
export const cm2 = (mm2: number) => `${one.format(mm2 / 100)} cm²`;
/** A change with its sign; ± where so little that it reads as nothing. */
export const signed = (n: number, text: (n: number) => string) => {
  const told = text(Math.abs(n));
  const sign = told === text(0) ? "±" : n < 0 ? "−" : "+";
  return `${sign}${told}`;
};
export const plural = (n: number, word: string, many = `${word}s`) =>
  `${count(n)} ${n === 1 ? word : many}`;

export function length(mm: number): string {
  if (mm === 0) return "0.0 mm";
  if (Math.abs(mm) >= 0.1) return `${one.format(mm)} mm`;
  return mm < 0.001 ? "under 0.001 mm" : `${mm.toFixed(3)} mm`;
}

/** A thickness against what is asked for; what is less never reads as the same. */
export function shortfall(found: number, asked: number): { found: string; asked: string } {
  const told = [found, asked].map((mm) => mm.toFixed(2));
  const same = found < asked && told[0] === told[1];
  const close = asked - found >= 0.0005 ? found.toFixed(3) : `just under ${told[1]}`;
  return { found: same ? close : told[0]!, asked: told[1]! };
}

export function bytes(n: number): string {
  if (n >= 1e6) return `${one.format(n / 1e6)} MB`;
  return n >= 1e3 ? `${count(n / 1e3)} kB` : `${n} bytes`;
}

export function seconds(ms: number): string {
  const s = Math.max(0, ms / 1000);
  return s < 60 ? `${Math.floor(s)} s` : `${Math.floor(s / 60)} min ${Math.floor(s % 60)} s`;
}

const clock = new Intl.DateTimeFormat("en-GB", { hour: "2-digit", minute: "2-digit" });
const weekday = new Intl.DateTimeFormat("en-GB", { weekday: "short", day: "numeric" });
const date = new Intl.DateTimeFormat("en-GB", { day: "numeric", month: "short" });

export function due(iso: string, now = new Date()): { text: string; late: boolean } {
  const at = new Date(iso);
  const midnight = new Date(now);
  midnight.setHours(0, 0, 0, 0);
  const days = Math.floor((at.getTime() - midnight.getTime()) / 86_400_000);
  const late = at < now;
  if (days === 0) return { text: `today ${clock.format(at)}`, late };
  if (days === 1) return { text: "tomorrow", late };
  if (days > 1 && days < 7) return { text: weekday.format(at), late };
  return { text: date.format(at), late };
}

/** When something happened: the time, and the day unless that is today. */
export function timeOf(iso: string, now = new Date()): string {
  const at = new Date(iso);
  const today = at.toDateString() === now.toDateString();
  return today ? clock.format(at) : `${date.format(at)}, ${clock.format(at)}`;
}

/** Units that a file's numbers can be read in. */
export const UNIT_NAMES = {
  mm: "millimetres",
  cm: "centimetres",
  m: "metres",
  in: "inches",
  ft: "feet",
} as const;

/** Some pieces by their numbers, or how many there are. */
export const piecesCalled = (numbers: readonly number[]) =>
  numbers.length > 4 ? plural(numbers.length, "piece") : `piece ${numbers.join(", ")}`;
