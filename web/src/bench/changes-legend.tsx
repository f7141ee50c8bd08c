import type { Item, RevisionLine } from "../api/client";
import { Button } from "../ui/button";
import { count, plural } from "../ui/format";
import { type Changes, SHARES, TINTS } from "../viewer/changes";
import { calledOf } from "./figures";
import { movedBy, takenOut } from "./moved";
import { useBench } from "./store";
import { Comparing } from "./comparing";
import { isMadeOf } from "./use-comparison";
import type { Shown } from "./use-shown";

const reading = (mm: number) => (mm < 0.1 ? mm.toFixed(3) : mm.toFixed(2));

type Props = {
  item: Pick<Item, "revisions">;
  shown: Pick<Shown, "line" | "against" | "changes" | "changesProblem" | "compared">;
};

/** What the tints of the changes mean, in millimetres, with what the account says of them. */
export function ChangesLegend({ item, shown }: Props) {
  const { line, against, compared } = shown;
  const { showChanges, changedSince } = useBench.getState();
  if (!line || !against) return null;
  return (
    <section
      aria-label="What changed"
      className="pointer-events-auto mb-2 w-[440px] max-w-full rounded bg-paper/95 px-3 py-2.5 shadow"
    >
      <div className="mb-2 flex items-center gap-2">
        <label className="flex min-w-0 flex-1 items-center gap-2">
          <span className="whitespace-nowrap">Changed since</span>
          <select
            className="min-w-0 flex-1 rounded border border-slate bg-sheet px-2 py-1"
            value={against.id}
            onChange={(event) => changedSince(Number(event.target.value))}
          >
            {item.revisions
              .filter((one) => one.id !== line.id)
              .map((one) => (
                <option key={one.id} value={one.id}>
                  {calledOf(one)}
                </option>
              ))}
          </select>
        </label>
        <Button hint="K" onClick={showChanges}>
          Put away
        </Button>
      </div>
      {!isMadeOf(line, against) && !compared.account ? (
        <Comparing compared={compared} />
      ) : (
        <What {...shown} since={against} />
      )}
    </section>
  );
}

function What(props: Props["shown"] & { since: RevisionLine }) {
  const { changes, changesProblem, since } = props;
  const { account } = props.compared;
  const before = `revision ${since.number}`;
  if (changesProblem) return <p>What changed was not kept for this revision.</p>;
  if (!changes) return <p>Fetching what changed…</p>;
  return (
    <>
      {changes.fresh > 0 && <Tints greatest={changes.greatest} />}
      <p className="mt-1">
        {changes.fresh === 0
          ? `Every triangle here was there in ${before}.`
          : `${plural(changes.fresh, "triangle")} of ${count(changes.faces)} ${
              changes.fresh === 1 ? "was" : "were"
            } not there in ${before}.`}
      </p>
      {account && (
        <p>
          {movedBy(account)} {takenOut(account)}
        </p>
      )}
    </>
  );
}

function Tints({ greatest }: { greatest: Changes["greatest"] }) {
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
