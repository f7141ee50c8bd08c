import type { Item } from "../api/client";
import { Button } from "../ui/button";
import { Complaint } from "../ui/field";
import { Notice } from "../ui/notice";
import { JobProgress } from "../ui/progress";
import { AccountOf } from "./account";
import { Answer } from "./answer";
import { ReleasePanel } from "./release-panel";
import { Rework, ReworkDoor } from "./rework";
import { Ended } from "./states";
import { useBench } from "./store";
import { chooseRow, type LedgerState } from "./use-ledger";
import type { Shown } from "./use-shown";
import type { Work } from "./use-work";

type Props = { item: Item; shown: Shown; ledger: LedgerState; work: Work };

/** The right of the bench: what goes on, the answer to the open question, what was changed. */
export function LedgerColumn({ item, shown, ledger, work }: Props) {
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
      <LookingElsewhere item={item} shown={shown} work={work} />
      <Body item={item} shown={shown} ledger={ledger} work={work} />
      {revision && !rework && <ReworkDoor />}
      {revision && (rework || ledger.open !== "release") && <AccountOf revision={revision} />}
    </section>
  );
}

/** Says that the revision shown is not the one that holds. */
function LookingElsewhere({ item, shown, work }: Omit<Props, "ledger">) {
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

function Body({ item, shown, ledger, work }: Props) {
  const rework = useBench((bench) => bench.rework);
  const { revision } = shown;
  const { question, rows, chosen } = ledger;
  const { canWork, run, actions } = work;
  if (revision && rework) {
    return (
      <Rework
        revision={revision}
        operations={work.operations}
        place={chosen}
        onRun={canWork ? run : null}
      />
    );
  }
  if (ledger.open === "release" && item.current !== null) {
    return (
      <ReleasePanel
        item={item}
        busy={!canWork}
        onRelease={(format) => actions.release.mutate(format)}
      />
    );
  }
  if (revision && question) {
    return (
      <Answer
        item={item}
        revision={revision}
        question={question}
        rows={rows}
        onChoose={chooseRow}
        operations={work.operations}
        ordered={work.ordered}
        canWork={canWork}
        actions={actions}
        onMend={work.mend}
        onRun={run}
      />
    );
  }
  return (
    <Notice title={item.problem ? "This file cannot be read." : "Not examined yet."}>
      {item.problem}
    </Notice>
  );
}
