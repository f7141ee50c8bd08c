import type { Item, Question, Revision, Segment } from "../api/client";
import { Button } from "../ui/button";
import { coversOf, Ledger } from "./ledger";
import type { Row } from "./rows";
import { SizePanel } from "./size-panel";
import { useBench } from "./store";
import { Suits } from "./suits";
import type { Work } from "./use-work";
import { verdictOf } from "./verdict";
import { WallsHead } from "./walls-head";

type Props = {
  item: Item;
  revision: Revision;
  /** Whether that is the one which holds: decisions are about that one. */
  current: boolean;
  question: Question;
  /** How the question stands for that revision, and which of its places are accepted. */
  segment: Segment | undefined;
  covered: Item["covered"];
  rows: Row[];
  onChoose: (row: Row) => void;
  work: Work;
};

/** The answer to the open question: the verdict, what was found, and what to do about it. */
export function Answer(props: Props) {
  const { item, revision, current, question, rows, work, covered } = props;
  const { operations, ordered, canWork, actions } = work;
  const chosen = useBench((bench) => bench.chosen);
  const suits = useBench((bench) => bench.suits);
  const coverOf = coversOf(covered);
  const open = rows.filter((row) => !coverOf(row));
  const { title, about } = verdictOf(
    revision,
    question,
    open,
    rows.length > open.length,
    props.segment,
  );
  return (
    <>
      <header className="px-4 py-4">
        <h2 className="text-verdict font-[650]">{title}</h2>
        <p className="mt-1 text-ink-2">{about}</p>
        {open.some((r) => r.finding.severity === "leak") && (
          <Button look="primary" hint="M" className="mt-3" disabled={!canWork} onClick={work.mend}>
            Mend
          </Button>
        )}
        {question.key === "walls" && (
          <WallsHead
            revision={revision}
            judging={item.judging}
            // what holds now has to be judged, whatever older revision is looked at
            waits={current && props.segment?.state === "not run"}
            onJudge={canWork ? work.judge : null}
            onStop={(job) => actions.cancel.mutate(job)}
          />
        )}
      </header>
      {question.key === "size" ? (
        <SizePanel
          item={item}
          revision={revision}
          coverOf={coverOf}
          rows={rows}
          material={ordered}
          onScale={
            canWork
              ? (parameters) =>
                  actions.operate.mutate({
                    revision: revision.id,
                    operation: "scale",
                    parameters,
                  })
              : null
          }
          onUnit={
            canWork
              ? (unit) =>
                  actions.operate.mutate({
                    revision: revision.id,
                    operation: "set-unit",
                    parameters: { unit },
                  })
              : null
          }
          onAccept={canWork ? work.accept : null}
          onWithdraw={canWork ? work.withdraw : null}
          operations={operations}
          onRun={canWork ? work.run : null}
        />
      ) : question.key === "walls" && suits ? (
        <Suits
          item={item.id}
          covered={covered}
          revision={revision}
          ordered={ordered?.key ?? ""}
          onTake={canWork ? work.take : null}
        />
      ) : (
        <Ledger
          item={item.id}
          rows={rows}
          chosen={chosen}
          onChoose={props.onChoose}
          operations={operations}
          onRun={canWork ? work.run : null}
          onAccept={canWork ? work.accept : null}
          onWithdraw={canWork ? work.withdraw : null}
          coverOf={coverOf}
        />
      )}
    </>
  );
}
