import type { Operation } from "../api/client";
import { count, volume } from "../ui/format";
import { NumberFields, useNumbers } from "../ui/numbers";
import type { Row } from "./rows";

/** What was chosen about an operation, by parameter. */
export type Chosen = Record<string, unknown>;

export type OnRun = (operation: Operation, places: number[] | null, chosen?: Chosen) => void;

type Props = {
  row: Row;
  operation: Operation;
  /** Null when nothing can be run now. */
  onRun: OnRun | null;
};

/** One remedy for the chosen place: its typed to fill in, and its buttons. */
export function Remedy({ row, operation, onRun }: Props) {
  const typed = useNumbers(operation);
  const single = operation.parameters.some((p) => p.name === "places");
  const ofFinding = operation.parameters.find((p) => p.kind === "finding");
  const go = (places: number[] | null, more: Chosen = {}) => {
    const chosen: Chosen = { ...typed.values, ...more };
    if (ofFinding) chosen[ofFinding.name] = row.finding.kind;
    return Object.keys(chosen).length
      ? onRun?.(operation, places, chosen)
      : onRun?.(operation, places);
  };
  const offer = (title: string, places: number[] | null, about?: string, more?: Chosen) => (
    <Offer
      key={title}
      title={title}
      about={about}
      onClick={onRun && !typed.wrong.length ? () => go(places, more) : null}
    />
  );
  return (
    <div className="mt-2 rounded border border-rule bg-paper">
      {typed.numbers.length > 0 && (
        <div className="border-b border-rule px-3 py-2">
          <NumberFields numbers={typed} />
        </div>
      )}
      {offer(
        operation.title,
        single ? [row.place] : null,
        [operation.about, effectText(operation, [row.spot], typed.values)]
          .filter(Boolean)
          .join(" "),
      )}
      {single &&
        row.finding.places > 1 &&
        offer(
          `The same at all ${count(row.finding.places)} places`,
          null,
          effectText(operation, row.finding.spots, typed.values),
        )}
      {offersOf(operation).map(({ says, chosen }) =>
        offer(says, single ? [row.place] : null, undefined, chosen),
      )}
    </div>
  );
}

/** What a remedy will add and move, in words; nothing for what is not told beforehand. */
function effectText(
  operation: Operation,
  spots: Row["spot"][],
  { thickness }: Record<string, number>,
): string | undefined {
  if (operation.name === "give-thickness") {
    const area = spots.reduce((sum, spot) => sum + (spot.area_mm2 ?? 0), 0);
    if (!area) return undefined;
    return thickness
      ? `Adds about ${volume(area * thickness)}.`
      : `Adds about ${volume(area)} for each millimetre of thickness.`;
  }
  const known = spots.filter((spot) => spot.adds_mm3 != null);
  if (operation.name !== "build-up" || !known.length) return undefined;
  const adds = known.reduce((sum, spot) => sum + (spot.adds_mm3 ?? 0), 0);
  const shift = Math.max(...known.map((spot) => spot.shift_mm ?? 0));
  return `About ${volume(adds)} more; the skin moves by about ${shift.toFixed(2)} mm on both sides, or twice that on one.`;
}

/** What can be chosen about an operation by buttons of its own. */
const offersOf = (operation: Operation) =>
  operation.parameters.flatMap(({ name, choices, offers }) =>
    choices.flatMap((choice, i) =>
      offers[i] ? [{ says: offers[i], chosen: { [name]: choice } }] : [],
    ),
  );

function Offer(props: { title: string; about?: string; onClick: (() => void) | null }) {
  return (
    <button
      type="button"
      disabled={!props.onClick}
      onClick={props.onClick ?? undefined}
      className="block w-full border-b border-rule px-3 py-1.5 text-left last:border-0 enabled:hover:bg-sheet disabled:text-ink-2"
    >
      <b className="block font-[650]">{props.title}</b>
      {props.about && <span className="text-ink-2">{props.about}</span>}
    </button>
  );
}
