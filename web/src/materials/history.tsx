import type { Demand, Edition, RuleSheet } from "../api/client";
import { Button } from "../ui/button";

const day = new Intl.DateTimeFormat("en-GB", {
  day: "numeric",
  month: "short",
  hour: "2-digit",
  minute: "2-digit",
});

const NAMES: Record<string, string> = {
  largest: "Largest part",
  must_drain: "Hollows must drain",
  name: "Name",
  process: "Process",
};

const said = (value: unknown): string =>
  Array.isArray(value)
    ? value.join(" × ")
    : typeof value === "boolean"
      ? value
        ? "yes"
        : "no"
      : String(value);

type Props = {
  editions: Edition[];
  demands: Demand[];
  /** Makes an earlier sheet hold again, as a new edition; null for those who may only look. */
  onHoldAgain: ((rules: RuleSheet, why: string) => void) | null;
};

/** All sheets that ever held for a material, the last first, with what each changed. */
export function History({ editions, demands, onHoldAgain }: Props) {
  const title = (name: string) =>
    demands.find((one) => one.name === name)?.title ?? NAMES[name] ?? name;
  return (
    <ol aria-label="Editions" className="min-h-0 flex-1 overflow-auto">
      {editions.map((one, i) => (
        <li key={one.number} className="border-b border-rule px-4 py-3">
          <div className="flex justify-between gap-3">
            <b className="font-[650]">
              Edition {one.number}
              {i === 0 && <span className="font-normal text-ink-2"> holds now</span>}
            </b>
            <span className="whitespace-nowrap text-ink-2">{day.format(new Date(one.at))}</span>
          </div>
          <p className="text-ink-2">
            {[one.by, one.why].filter(Boolean).join(": ") || "brought in"}
          </p>
          {one.changes.map((change) => (
            <p key={change.name}>
              {title(change.name)}: {said(change.before)} → <b>{said(change.now)}</b>
            </p>
          ))}
          {i > 0 && onHoldAgain && (
            <Button
              look="quiet"
              onClick={() => onHoldAgain(one.rules as RuleSheet, `as in edition ${one.number}`)}
            >
              Let it hold again
            </Button>
          )}
        </li>
      ))}
    </ol>
  );
}
