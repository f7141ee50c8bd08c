import { useEffect, useMemo, useState } from "react";
import type { Item, Revision, RevisionLine } from "../api/client";
import { STARTED, useRevision, useStand } from "../api/queries";
import { useHeldKey } from "../ui/keys";
import type { Changes } from "../viewer/changes";
import type { LoadedSkin } from "../viewer/load-skin";
import type { Marks } from "../viewer/skin";
import { useBench } from "./store";
import { type Compared, isMadeOf, useComparison } from "./use-comparison";
import { useChanges, useMarks, useSkin } from "./use-mesh";

/** What the bench shows of an item: a revision, its mesh, and what it is held against. */
export type Shown = {
  id: number | null;
  /** With its report, once it has come; the one before it until then. */
  revision: Revision | undefined;
  line: RevisionLine | undefined;
  /** The revision that it was made of. */
  before: RevisionLine | undefined;
  /** Another one beside it. */
  beside: RevisionLine | undefined;
  skin: LoadedSkin | undefined;
  /** Why the mesh could not be fetched. */
  problem: string | undefined;
  marks: Marks | null;
  /** The mesh of `before` while that is looked at in its place. */
  wasSkin: LoadedSkin | undefined;
  /** The revision that this one is held against: the one it was made of, or what was chosen. */
  against: RevisionLine | undefined;
  /** Whether what changed since then is drawn; what that is once it has come, or why not. */
  changing: boolean;
  changes: Changes | null;
  changesProblem: string | undefined;
  compared: Compared;
  /** Whether report, marks and mesh are of the same revision. */
  fits: boolean;
  /** Looks at `before` as long as it is held. */
  hold: (held: boolean) => void;
  /** How each question stands for the revision shown, and which of its places are accepted. */
  seam: Item["seam"];
  covered: Item["covered"];
  /** The revision that holds by now, where somebody else has moved the item on to it. */
  movedOn: RevisionLine | undefined;
};

/** Go along with what this page has started; what others do is told, and changes nothing here. */
function useHeld(item: Item): number | null {
  const held = useBench((bench) => bench.held);
  const follow = useBench((bench) => bench.follow);
  const unroll = useBench((bench) => bench.unroll);
  const { current, job } = item;
  const known = held !== null && item.revisions.some((one) => one.id === held);
  const moved = known && current !== held;
  const line = item.revisions.find((one) => one.id === current);
  // what this page started made the revision that holds now
  const ours = job !== null && STARTED.has(job.id) && line !== undefined && line.parent === held;
  const goAlong = !known || (moved && ours);
  useEffect(() => {
    if (!goAlong || current === held) return;
    follow(current);
    // what was asked for here is answered first: what came of it
    if (known) unroll(current);
  }, [goAlong, current, held, follow, unroll, known]);
  return goAlong ? current : held;
}

const NOTHING_ACCEPTED: Item["covered"] = [];

/** Seam and acceptances are those of the revision shown, not of another. */
function useStandOf(item: Item, id: number | null) {
  const holds = id === item.current;
  const restsOn = `${item.decisions.length} ${item.material} ${item.current}`;
  const told = useStand(holds ? null : id, restsOn).data;
  return useMemo(() => {
    if (holds) return { seam: item.seam, covered: item.covered };
    const release = item.seam.filter((one) => one.question === "release");
    return {
      seam: told ? [...told.seam, ...release] : item.seam,
      covered: told?.covered ?? NOTHING_ACCEPTED,
    };
  }, [holds, item.seam, item.covered, told]);
}

export function useShown(item: Item): Shown {
  const viewing = useBench((bench) => bench.viewing);
  const besideId = useBench((bench) => bench.beside);
  const asked = useBench((bench) => bench.changes);
  const since = useBench((bench) => bench.since);
  const followed = useHeld(item);
  const id = viewing ?? followed;
  const line = item.revisions.find((one) => one.id === id);
  const stand = useStandOf(item, id);
  const revision = useRevision(id, line?.examination).data;
  const movedOn =
    followed === item.current ? undefined : item.revisions.find((one) => one.id === item.current);
  const before = item.revisions.find((one) => one.id === line?.parent);
  const [pressed, hold] = useState(false);
  const held = useHeldKey("q");
  const back = (held || pressed) && before !== undefined;
  const others = item.revisions.filter((one) => one.id !== id);
  const against = others.find((one) => one.id === since) ?? before ?? others[0];
  const changing = asked && against !== undefined;
  const skin = useSkin(id);
  const earlier = useSkin(back ? before.id : null);
  const earlierSkin = earlier.isPlaceholderData ? undefined : earlier.data;
  const wasSkin = back ? earlierSkin : undefined;
  const compared = useComparison(item.id, changing ? line : undefined, against);
  const direct = line !== undefined && against !== undefined && isMadeOf(line, against);
  const known = changing && (direct || compared.account !== null);
  const changes = useChanges(known ? id : null, direct ? null : (against?.id ?? null));
  const marks = useMarks(line?.examination ?? null).data;
  const beside = item.revisions.find((one) => one.id === besideId && one.id !== id);
  return useMemo(
    () => ({
      id,
      revision,
      line,
      before,
      beside,
      skin: skin.data,
      problem: skin.error?.message,
      marks: marks ?? null,
      wasSkin,
      against,
      compared,
      changing,
      changes: changes.data ?? null,
      changesProblem: changes.error?.message,
      fits:
        revision?.id === id &&
        revision.examination === line?.examination &&
        !skin.isPlaceholderData &&
        !wasSkin,
      hold,
      movedOn,
      ...stand,
    }),
    [
      id,
      revision,
      line,
      before,
      beside,
      skin.data,
      skin.error,
      skin.isPlaceholderData,
      marks,
      wasSkin,
      against,
      compared,
      changing,
      changes.data,
      changes.error,
      movedOn,
      stand,
    ],
  );
}
