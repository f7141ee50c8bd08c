import type { Account } from "../api/client";
import { cm2, length, plural } from "../ui/format";

/** How far the skin moved, in a sentence, with the bound where it says more. */
export function movedBy(account: Account): string {
  const bound = account.deviation_bound_mm;
  if (!bound) return `Corners and middles moved by ${length(account.max_deviation_mm)} at most.`;
  const [low = 0, high = 0] = bound;
  if (high < 0.0005) return "The outer skin is where it was.";
  const [least, most] = [length(low), length(high)];
  if (least === most) return `The outer skin moved by ${most} at most.`;
  return `The outer skin moved by ${most} at most, and ${least} at least.`;
}

/** What was taken out whole, in a sentence; nothing if nothing was. */
export function takenOut(account: Account): string {
  const taken = account.taken_out;
  if (!taken?.pieces) return "";
  const area = taken.area_mm2 >= 10 ? cm2(taken.area_mm2) : `${taken.area_mm2.toFixed(2)} mm²`;
  return `${plural(taken.pieces, "inner part or crumb", "inner parts and crumbs")} taken out, ${area} of skin.`;
}

/** The box that reaches so far round a place, mm. */
export const boxRound = (at: readonly number[], reach: number): [number[], number[]] => [
  at.map((x) => x - reach),
  at.map((x) => x + reach),
];
