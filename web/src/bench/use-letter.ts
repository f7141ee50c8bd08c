import type { Item, LetterText, Proposal } from "../api/client";
import { useProposal } from "../api/queries";
import { useDrafts } from "../ui/drafts";

/** The parts of a letter that a person may write anew, in their order. */
export const PARTS = ["opening", "found", "changed", "accepted"] as const;
export type Part = (typeof PARTS)[number];

/** The letter as it would go, and what changes it. */
export type Letter = {
  proposal: Proposal;
  text: LetterText;
  /** Whether anything of it differs from what was proposed. */
  edited: boolean;
  write: (part: Part, text: string) => void;
  asProposed: () => void;
};

/** What would leave with an item; null while that is not to be seen, or has not come. */
export function useLetter(item: Item, wanted: boolean): Letter | null {
  // decisions, judgements and revisions all change it
  const line = item.revisions.find((one) => one.id === item.current);
  const restsOn = `${item.current} ${line?.examination} ${item.decisions.length} ${item.material}`;
  const proposal = useProposal(item.id, wanted ? restsOn : null).data;
  const texts = useDrafts((drafts) => drafts.texts);
  const put = useDrafts((drafts) => drafts.write);
  if (!wanted || !proposal || proposal.revision !== item.current) return null;
  const key = (part: Part) => `${item.id} letter ${proposal.revision} ${part}`;
  const text = Object.fromEntries(
    PARTS.map((part) => [part, texts[key(part)] ?? proposal.letter[part]]),
  ) as LetterText;
  return {
    proposal,
    text,
    edited: PARTS.some((part) => text[part] !== proposal.letter[part]),
    // what was emptied on purpose is not what was never touched
    write: (part, next) => put(key(part), next === proposal.letter[part] ? "" : next || " "),
    asProposed: () => PARTS.forEach((part) => put(key(part), "")),
  };
}
