import type { Item } from "../api/client";
import { Button } from "../ui/button";
import { Complaint } from "../ui/field";
import { Notice } from "../ui/notice";
import { JobProgress } from "../ui/progress";
import { Answer } from "./answer";
import { ReleasePanel } from "./release-panel";
import { Rework, ReworkDoor } from "./rework";
import { Ended } from "./states";
import { useBench } from "./store";
import { Unreadable } from "./unreadable";
import { chooseRow, type LedgerState } from "./use-ledger";
import type { Letter } from "./use-letter";
import type { Shown } from "./use-shown";
import type { Work } from "./use-work";

type Props = {
  item: Item;
  shown: Shown;
  ledger: LedgerState;
  work: Work;
  /** What would leave with it, where that is to be read. */
  letter: Letter | null;
};

/** The right of the bench: what goes on, the answer to the open question, what was changed. */
export function LedgerColumn({ item, shown, ledger, work, letter }: Props) {
  const { revision } = shown;
  const { job } = item;
  const { busy, problem, actions } = work;
  const rework = useBench((bench) => bench.rework);
  return (
    <section
      aria-label="Ledger"
      className="flex w-[352px] shrink-0 flex-col border-l border-rule bg-paper"
    >
      {busy && job && <JobProgress job={job} onCancel={() => actions.cancel.mutate(job.id)} />}
      {problem && <Complaint>{problem}</Complaint>}
      {!busy && job && <Ended key={job.id} job={job} />}
      <MovedOn shown={shown} by={item.moved_by} />
      <LookingElsewhere item={item} shown={shown} work={work} />
      <Body item={item} shown={shown} ledger={ledger} work={work} letter={letter} />
      {revision && !rework && <ReworkDoor />}
    </section>
  );
}

/** Says that somebody else has moved the item on; what is written here stays. */
function MovedOn({ shown, by }: { shown: Shown; by: string }) {
  const viewing = useBench((bench) => bench.viewing);
  const follow = useBench((bench) => bench.follow);
  const line = shown.movedOn;
  if (!line || viewing !== null) return null;
  return (
    <div
      role="status"
      data-testid="moved-on"
      className="flex items-center gap-3 border-b border-l-3 border-rule border-l-blue bg-sheet px-4 py-2.5"
    >
      <span className="flex-1">
        <b className="font-[650]">{by} moved this item on:</b> revision {line.number} holds, “
        {line.title}”. You still look at {shown.line?.number}.
      </span>
      <Button onClick={() => follow(line.id)}>Look at it</Button>
    </div>
  );
}

/** Says that the revision shown is not the one that holds. */
function LookingElsewhere({ item, shown, work }: Pick<Props, "item" | "shown" | "work">) {
  const viewing = useBench((bench) => bench.viewing);
  if (viewing === null) return null;
  const current = item.revisions.find((one) => one.id === item.current)?.number;
  return (
    <div className="flex items-center gap-3 border-b border-rule bg-sheet px-4 py-2.5">
      <span className="flex-1">
        You look at revision {shown.line?.number}; work goes on from {current}.
      </span>
      <Button hint="H" disabled={work.busy} onClick={work.workFromHere}>
        Work from here
      </Button>
    </div>
  );
}

function Body({ item, shown, ledger, work, letter }: Props) {
  const rework = useBench((bench) => bench.rework);
  const { revision } = shown;
  const { question, rows, chosen } = ledger;
  const { canWork, run } = work;
  if (revision && rework) {
    return (
      <Rework
        revision={revision}
        operations={work.operations}
        earlier={work.earlier}
        place={chosen}
        onRun={canWork ? run : null}
      />
    );
  }
  if (ledger.open === "release" && item.current !== null) {
    return <ReleasePanel item={item} revision={revision} work={work} letter={letter} />;
  }
  if (revision && question) {
    return (
      <Answer
        item={item}
        revision={revision}
        current={shown.id === item.current}
        question={question}
        segment={shown.seam.find((one) => one.question === question.key)}
        covered={shown.covered}
        rows={rows}
        onChoose={chooseRow}
        work={work}
      />
    );
  }
  if (item.problem) return <Unreadable item={item} work={work} />;
  return <Notice title="Not examined yet." />;
}
