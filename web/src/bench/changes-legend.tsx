import type { Account } from "../api/client";
import { count, plural } from "../ui/format";
import { type Changes, SHARES, TINTS } from "../viewer/changes";
import { movedBy, takenOut } from "./moved";

const reading = (mm: number) => (mm < 0.1 ? mm.toFixed(3) : mm.toFixed(2));

type Props = {
  changes: Changes | null;
  problem: string | undefined;
  account: Account | null;
  before: string;
};

/** What the tints of the changes mean, in millimetres, with what the account says of them. */
export function ChangesLegend({ changes, problem, account, before }: Props) {
  return (
    <section
      aria-label="What changed"
      className="pointer-events-auto mb-2 w-[440px] max-w-full rounded bg-paper/95 px-3 py-2.5 shadow"
    >
      {problem ? (
        <p>What changed was not kept for this revision.</p>
      ) : !changes ? (
        <p>Comparing with {before}…</p>
      ) : (
        <>
          {changes.fresh > 0 && <Tints greatest={changes.greatest} />}
          <p className="mt-1">
            {changes.fresh === 0
              ? `Every triangle here was there in ${before}.`
              : `${plural(changes.fresh, "new triangle")} of ${count(changes.faces)} since ${before}.`}
          </p>
          {account && (
            <p>
              {movedBy(account)} {takenOut(account)}
            </p>
          )}
        </>
      )}
    </section>
  );
}

function Tints({ greatest }: { greatest: number }) {
  // where all new triangles lie about where the skin lay, one tint says so
  const tints = greatest >= 0.01 ? TINTS : TINTS.slice(0, 2);
  const told = (i: number) => {
    if (i === 0) return "as it was";
    if (i === 1)
      return tints.length > 2 ? "new" : `new, within ${Math.max(greatest, 0.001).toFixed(3)} of it`;
    return `over ${reading(SHARES[i - 1]! * greatest)}`;
  };
  return (
    <div className="flex">
      {tints.map((tint, i) => (
        <div key={tint} className="min-w-0 flex-1">
          <div className="h-3 border-y border-ink/40" style={{ background: tint }} />
          <div className="whitespace-nowrap text-center text-small">{told(i)}</div>
        </div>
      ))}
    </div>
  );
}
