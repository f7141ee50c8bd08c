import { useState } from "react";
import type { Operation } from "../api/client";
import { inputLook } from "../ui/field";
import { count } from "../ui/format";
import type { Row } from "./rows";

/** What was chosen about an operation, by parameter. */
export type Chosen = Record<string, string | number>;

export type OnRun = (operation: Operation, places: number[] | null, chosen?: Chosen) => void;

type Props = {
  row: Row;
  operation: Operation;
  /** Null when nothing can be run now. */
  onRun: OnRun | null;
};

/** One remedy for the chosen place: its measures to fill in, and its buttons. */
export function Remedy({ row, operation, onRun }: Props) {
  const numbers = operation.parameters.filter((p) => p.kind === "number");
  const [typed, setTyped] = useState<Record<string, string>>({});
  const single = operation.parameters.some((p) => p.name === "places");
  const measures: Chosen = {};
  const ofFinding = operation.parameters.find((p) => p.kind === "finding");
  if (ofFinding) measures[ofFinding.name] = row.finding.kind;
  const wrong: typeof numbers = [];
  for (const one of numbers) {
    const text = typed[one.name] ?? usual(one.default);
    if (text === "") continue;
    const value = Number(text);
    measures[one.name] = value;
    if (!(value >= one.least && value <= one.most)) wrong.push(one);
  }
  const go = (places: number[] | null, more: Chosen = {}) => {
    const chosen = { ...measures, ...more };
    return Object.keys(chosen).length
      ? onRun?.(operation, places, chosen)
      : onRun?.(operation, places);
  };
  const offer = (title: string, places: number[] | null, about?: string, more?: Chosen) => (
    <Offer
      key={title}
      title={title}
      about={about}
      onClick={onRun && !wrong.length ? () => go(places, more) : null}
    />
  );
  return (
    <div className="mt-2 rounded border border-rule bg-paper">
      {numbers.length > 0 && (
        <div className="grid grid-cols-[auto_72px_1fr] items-center gap-x-2 gap-y-1 border-b border-rule px-3 py-2">
          {numbers.map((one) => (
            <label key={one.name} className="contents" title={one.about}>
              <span className="text-ink-2">{one.title}</span>
              <span>
                <input
                  type="number"
                  step="any"
                  min={one.least}
                  max={one.most}
                  className={inputLook}
                  placeholder="usual"
                  value={typed[one.name] ?? usual(one.default)}
                  onChange={(event) => setTyped({ ...typed, [one.name]: event.target.value })}
                />
              </span>
              <span>{one.unit}</span>
            </label>
          ))}
          {wrong.length > 0 && (
            <p role="alert" className="col-span-3 text-rust">
              {wrong.map((p) => `${p.title}: ${p.least} to ${p.most} ${p.unit}`).join("; ")}.
            </p>
          )}
        </div>
      )}
      {offer(operation.title, single ? [row.place] : null, operation.about)}
      {single &&
        row.finding.places > 1 &&
        offer(`The same at all ${count(row.finding.places)} places`, null)}
      {offersOf(operation).map(({ says, chosen }) =>
        offer(says, single ? [row.place] : null, undefined, chosen),
      )}
    </div>
  );
}

const usual = (value: unknown) => (typeof value === "number" ? String(value) : "");

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
