import type { Item, Material, Operation, Question, Revision } from "../api/client";
import type { useItemActions } from "../api/queries";
import { Button } from "../ui/button";
import { Ledger } from "./ledger";
import type { OnRun } from "./remedy";
import type { Row } from "./rows";
import { SizePanel } from "./size-panel";
import { useBench } from "./store";
import { Suits } from "./suits";
import { verdictOf } from "./verdict";
import { WallsHead } from "./walls-head";

type Props = {
  item: Item;
  revision: Revision;
  question: Question;
  rows: Row[];
  onChoose: (row: Row) => void;
  operations: Operation[];
  /** The material ordered, once it is known. */
  ordered: Material | undefined;
  canWork: boolean;
  actions: ReturnType<typeof useItemActions>;
  onMend: () => void;
  onRun: OnRun;
};

/** The answer to the open question: the verdict, what was found, and what to do about it. */
export function Answer(props: Props) {
  const { item, revision, question, rows, operations, ordered, canWork, actions } = props;
  const chosen = useBench((bench) => bench.chosen);
  const suits = useBench((bench) => bench.suits);
  const { title, about } = verdictOf(revision, question, rows);
  const accept = canWork
    ? (kind: string, reason: string) => actions.waive.mutate({ kind, reason })
    : null;
  return (
    <>
      <header className="px-4 py-4">
        <h2 className="text-verdict font-[650]">{title}</h2>
        <p className="mt-1 text-ink-2">{about}</p>
        {rows.some((r) => r.finding.severity === "leak") && (
          <Button
            look="primary"
            hint="M"
            className="mt-3"
            disabled={!canWork}
            onClick={props.onMend}
          >
            Mend
          </Button>
        )}
        {question.key === "walls" && (
          <WallsHead
            revision={revision}
            material={ordered}
            onJudge={
              canWork && ordered ? () => actions.judge.mutate({ material: ordered.key }) : null
            }
          />
        )}
      </header>
      {question.key === "size" ? (
        <SizePanel
          item={item}
          revision={revision}
          onUnit={
            canWork
              ? (unit) => actions.operate.mutate({ operation: "set-unit", parameters: { unit } })
              : null
          }
          onConfirm={accept}
        />
      ) : question.key === "walls" && suits ? (
        <Suits
          waivers={item.waivers}
          revision={revision}
          ordered={ordered?.key ?? ""}
          onTake={canWork ? (material, why) => actions.judge.mutate({ material, why }) : null}
        />
      ) : (
        <Ledger
          rows={rows}
          chosen={chosen}
          onChoose={props.onChoose}
          operations={operations}
          onRun={canWork ? props.onRun : null}
          onAccept={accept}
          accepted={new Map(item.waivers.map((one) => [one.kind, one.reason]))}
        />
      )}
    </>
  );
}
