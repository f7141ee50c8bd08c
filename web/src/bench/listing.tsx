import { useMemo } from "react";
import type { Operation } from "../api/client";
import { Button } from "../ui/button";
import { inputLook } from "../ui/field";
import { count, plural } from "../ui/format";
import type { OnRun } from "./remedy";
import type { Listing, Row } from "./rows";
import { useBench } from "./store";

/** One line over a long ledger: which kind, how large at least, in which order. */
export function ListingLine({ rows, listed }: { rows: Row[]; listed: Row[] }) {
  const listing = useBench((bench) => bench.listing);
  const { list, takeRows } = useBench.getState();
  const kinds = useMemo(() => {
    const found = new Map<string, number>();
    for (const { finding } of rows) found.set(finding.kind, (found.get(finding.kind) ?? 0) + 1);
    return [...found];
  }, [rows]);
  const select = "min-w-0 rounded border border-rule bg-sheet px-1 py-0.5";
  return (
    <div
      role="group"
      aria-label="What is listed"
      className="flex flex-wrap items-center gap-x-2 gap-y-1 border-t border-rule px-3 py-1.5"
    >
      {kinds.length > 1 && (
        <select
          aria-label="Kind"
          className={`${select} max-w-[150px]`}
          value={listing.kind ?? ""}
          onChange={(event) => list({ kind: event.target.value || null })}
        >
          <option value="">every kind</option>
          {kinds.map(([kind, n]) => (
            <option key={kind} value={kind}>
              {kind.replaceAll("-", " ")} ({count(n)})
            </option>
          ))}
        </select>
      )}
      <label className="flex items-center gap-1">
        over
        <input
          type="number"
          min={0}
          step="any"
          aria-label="As large as, mm"
          className={`${inputLook} !w-16 !px-1 !py-0.5`}
          value={listing.least || ""}
          placeholder="0"
          onChange={(event) => list({ least: Math.max(0, Number(event.target.value)) })}
        />
        mm
      </label>
      <select
        aria-label="Order"
        className={select}
        value={listing.sort}
        onChange={(event) => list({ sort: event.target.value as Listing["sort"] })}
      >
        <option value="worst">worst first</option>
        <option value="largest">largest first</option>
        <option value="smallest">smallest first</option>
      </select>
      <Button
        look="quiet"
        className="ml-auto !p-0"
        onClick={() => takeRows(listed.map((row) => row.number))}
      >
        Take {listed.length === rows.length ? "all" : `these ${count(listed.length)}`}
      </Button>
    </div>
  );
}

type TakenProps = {
  rows: readonly Row[];
  taken: ReadonlySet<number>;
  operations: readonly Operation[];
  onRun: OnRun | null;
};

/** What can be done with several findings together: one button for each remedy of each kind. */
export function TakenRows({ rows, taken, operations, onRun }: TakenProps) {
  const takeRows = useBench((bench) => bench.takeRows);
  const chosen = rows.filter((row) => taken.has(row.number));
  if (!chosen.length) return null;
  const kinds = [...new Set(chosen.map(({ finding }) => finding.kind))];
  const offers = kinds.flatMap((kind) => {
    const places = chosen.filter((row) => row.finding.kind === kind).map((row) => row.place);
    return operations
      .filter(
        (one) => one.answers.includes(kind) && one.parameters.some((p) => p.name === "places"),
      )
      .map((operation) => ({ kind, places, operation }));
  });
  return (
    <section
      aria-label="Taken findings"
      className="border-t border-rule bg-ink px-3 py-2 text-chalk"
    >
      <div className="flex items-center">
        <b className="font-[650]">{plural(chosen.length, "finding")} taken</b>
        <button
          type="button"
          className="ml-auto underline-offset-2 hover:underline"
          onClick={() => takeRows([])}
        >
          Let go
        </button>
      </div>
      <div className="mt-1.5 flex flex-wrap gap-1.5">
        {offers.map(({ kind, places, operation }) => {
          const ofFinding = operation.parameters.find((p) => p.kind === "finding");
          return (
            <Button
              key={`${kind} ${operation.name}`}
              className="!px-2 !py-0.5"
              title={operation.about}
              disabled={!onRun}
              onClick={() =>
                onRun?.(operation, places, ofFinding ? { [ofFinding.name]: kind } : undefined)
              }
            >
              {operation.title}
              {kinds.length > 1 && `: ${count(places.length)}`}
            </Button>
          );
        })}
        {!offers.length && <span>Nothing mends these together.</span>}
      </div>
    </section>
  );
}
