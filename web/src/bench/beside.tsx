import { useQuery } from "@tanstack/react-query";
import { useMemo } from "react";
import type { Item, Question, RevisionLine } from "../api/client";
import { revisionQuery } from "../api/queries";
import { useClip } from "../inhand/use-clip";
import type { Link } from "../viewer/link";
import { ALL_SHOWN } from "../viewer/shells";
import { EMPTY_HANDED, type Looks, Viewer } from "../viewer/viewer";
import { rowsOf } from "./rows";
import { useBench } from "./store";
import { useChart } from "./use-chart";
import { useMarks, useSkin } from "./use-mesh";

const NOTHING: readonly never[] = [];

type Props = {
  item: Item;
  /** The open question, and the line on the chart of its walls. */
  question: Question | undefined;
  limit: number;
  /** The revision shown in the other half, and the one beside it. */
  shown: RevisionLine;
  other: RevisionLine;
  looks: Looks;
  link: Link;
};

/** Another revision beside the one shown, seen from the same place. */
export function Beside({ item, question, limit, shown, other, looks, link }: Props) {
  const setBeside = useBench((bench) => bench.setBeside);
  const skin = useSkin(other.id);
  const clip = useClip(skin.isPlaceholderData ? undefined : skin.data);
  const inHand = useMemo(() => ({ ...EMPTY_HANDED, clip }), [clip]);
  // what is marked and charted in one half is in the other, as found there
  const revision = useQuery(revisionQuery(other.id, other.examination)).data;
  const marks = useMarks(other.examination).data ?? null;
  const { soundings } = useChart(revision, question, undefined);
  const places = useMemo(
    () =>
      revision && question && question.key !== "size"
        ? rowsOf(revision, question).map((row) => row.mark)
        : NOTHING,
    [revision, question],
  );
  return (
    <section
      aria-label="Beside"
      className="absolute inset-y-0 left-1/2 right-0 border-l border-ink"
    >
      {skin.data && !skin.isPlaceholderData && (
        <Viewer
          skin={skin.data}
          marks={marks}
          sight={ALL_SHOWN}
          piece={null}
          nameOf={() => `Revision ${other.number}`}
          onPick={() => undefined}
          places={places}
          chosenPlace={null}
          labels={NOTHING}
          chosenLabel={null}
          onChoose={() => undefined}
          looks={looks}
          flight={null}
          link={link}
          soundings={soundings}
          changes={null}
          limit={limit}
          probe={null}
          region={null}
          inHand={inHand}
        />
      )}
      <p className="pointer-events-none absolute right-full top-12 mr-3 whitespace-nowrap rounded bg-paper/95 px-2 py-0.5 shadow">
        Revision {shown.number}, {shown.name || shown.title}
      </p>
      <label className="absolute left-3 top-11 flex items-center gap-2 rounded bg-paper/95 py-1 pl-3 pr-1 shadow">
        Beside it
        <select
          className="max-w-[210px] rounded border border-slate bg-sheet px-2 py-1"
          value={other.id}
          onChange={(event) => setBeside(Number(event.target.value))}
        >
          {item.revisions
            .filter((one) => one.id !== shown.id)
            .map((one) => (
              <option key={one.id} value={one.id}>
                {one.number} {one.name || one.title}
              </option>
            ))}
        </select>
      </label>
      {skin.isError && (
        <p role="alert" className="absolute inset-x-4 top-16 text-chalk">
          {skin.error.message}
        </p>
      )}
    </section>
  );
}
