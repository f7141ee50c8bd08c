import { useDeferredValue, useState } from "react";
import type { Operation, Revision } from "../api/client";
import { useCost } from "../api/queries";
import { Button } from "../ui/button";
import { inputLook } from "../ui/field";
import { count } from "../ui/format";
import { MOST_POINTS } from "../viewer/region";
import { type EarlierState, useEarlier } from "../ui/operation-fields";
import { NumberFields, useNumbers } from "../ui/numbers";
import type { Chosen, OnRun } from "./remedy";
import type { Row } from "./rows";
import { useBench } from "./store";

/** Whether it is offered where what it needs is chosen: faces, pieces, other models, a plane. */
export const isTakenElsewhere = (operation: Operation) =>
  operation.parameters.some(
    ({ kind, needed }) =>
      kind === "pieces" ||
      (kind === "meshes" && !(needed && operation.freely)) ||
      (needed && (kind === "faces" || kind === "vector" || kind === "line")),
  );

type Props = {
  revision: Revision;
  operations: Operation[];
  /** Other states of the item, the likeliest to be asked for first. */
  earlier: readonly EarlierState[];
  /** The place of the finding chosen last, to begin a region with. */
  place: Row | undefined;
  /** Null when nothing can be run now. */
  onRun: OnRun | null;
};

/** Work on the model at large: fewer or finer triangles, smoothed, recast. */
export function Rework({ revision, operations, earlier, place, onRun }: Props) {
  const setRework = useBench((bench) => bench.setRework);
  const setRegion = useBench((bench) => bench.setRegion);
  const free = operations.filter((one) => one.freely && !isTakenElsewhere(one));
  const [name, setName] = useState<string | null>(null);
  const open = free.find((one) => one.name === name);
  const choose = (one: Operation | undefined) => {
    setName(one?.name ?? null);
    setRegion({ picking: one?.parameters.some((p) => p.kind === "region") ?? false });
  };
  const leave = () => setRework(false);
  return (
    <div
      className="flex min-h-0 flex-1 flex-col"
      data-testid="rework"
      // the panel's fields hear no other keys of the bench
      onKeyDown={(event) => {
        if (event.key === "Escape") leave();
      }}
    >
      <header className="flex items-start gap-3 px-4 py-4">
        <div className="flex-1">
          <h2 className="text-verdict font-[650]">Rework the model</h2>
          <p className="mt-1 text-ink-2">
            {count(revision.report.triangles)} triangles. Each of these makes a new revision.
          </p>
        </div>
        <Button hint="." onClick={leave}>
          Findings
        </Button>
      </header>
      <ul className="min-h-0 flex-1 overflow-auto border-t border-rule">
        {free.map((one) => {
          const on = one === open;
          return (
            <li
              key={one.name}
              className={`border-b border-l-3 border-b-rule ${on ? "border-l-blue bg-sheet" : "border-l-transparent"}`}
            >
              <button
                type="button"
                aria-expanded={on}
                data-rework={one.name}
                onClick={() => choose(on ? undefined : one)}
                className="w-full px-3 py-2 text-left hover:bg-paper-2"
              >
                <b className="block font-[650]">{one.title}</b>
                {(on || !open) && <span className="text-ink-2">{one.about}</span>}
              </button>
              {on && (
                <Form
                  revision={revision}
                  operation={one}
                  earlier={earlier}
                  place={place}
                  onRun={onRun}
                />
              )}
            </li>
          );
        })}
      </ul>
    </div>
  );
}

/** The way in, below what the open question asks. */
export function ReworkDoor() {
  const setRework = useBench((bench) => bench.setRework);
  return (
    <button
      type="button"
      aria-keyshortcuts="."
      onClick={() => setRework(true)}
      className="flex shrink-0 items-center gap-2 border-t border-rule px-4 py-2 text-left hover:bg-paper-2"
    >
      <span className="flex-1">
        <b className="font-[650]">Rework</b>{" "}
        <span className="text-ink-2">fewer or finer triangles, smoothed, recast</span>
      </span>
      <kbd className="rounded border border-rule px-1.5 font-sans text-small">.</kbd>
    </button>
  );
}

function Form(props: Omit<Props, "operations"> & { operation: Operation }) {
  const { revision, operation, earlier, place, onRun } = props;
  const state = useEarlier(operation, earlier);
  const typed = useNumbers(operation);
  const [switched, setSwitched] = useState<Record<string, boolean>>({});
  const region = useBench((bench) => bench.region);
  const switches = operation.parameters.filter((p) => p.kind === "switch");
  const ofRegion = operation.parameters.find((p) => p.kind === "region");
  const chosen: Chosen = { ...typed.values, ...switched, ...state.values };
  const reach = region.reach || usualReach(revision);
  if (ofRegion && region.points.length) {
    chosen[ofRegion.name] = region.points.map((point) => [...point, reach]);
  }
  const asked = useDeferredValue(JSON.stringify(chosen));
  const cost = useCost(typed.wrong.length ? null : revision.id, operation.name, asked).data;
  const can = onRun !== null && !typed.wrong.length && !cost?.refused && state.complete;
  return (
    <form
      className="space-y-3 px-3 pb-3"
      onSubmit={(event) => {
        event.preventDefault();
        if (can) onRun(operation, null, chosen);
      }}
    >
      {state.fields}
      {ofRegion && <RegionField reach={reach} place={place} none={ofRegion.empty} />}
      <NumberFields numbers={typed} wide />
      {switches.map((one) => (
        <label key={one.name} className="flex items-center gap-2" title={one.about}>
          <input
            type="checkbox"
            checked={switched[one.name] ?? one.default === true}
            onChange={(event) => setSwitched({ ...switched, [one.name]: event.target.checked })}
          />
          {one.title}
        </label>
      ))}
      {operation.name === "flat-foot" && revision.report.margin_deg != null && (
        <p className="text-ink-2">{standingText(revision.report.margin_deg)}</p>
      )}
      {cost?.text && (
        <p role="status" className={cost.refused ? "text-rust" : "text-ink-2"}>
          {cost.text}
        </p>
      )}
      <Button type="submit" look="primary" disabled={!can}>
        {operation.title}
      </Button>
    </form>
  );
}

/** Whether it stands as it lies, and by how much. */
export const standingText = (margin: number) =>
  margin > 0
    ? `As it lies it stands, and can be tilted by ${Math.round(margin)}°.`
    : `As it lies it does not stand: its centre of mass is ${Math.round(-margin)}° beyond its foot.`;

/** A twelfth of the longest side, to two figures. */
export const usualReach = ({ report }: Revision) =>
  Number((Math.max(...report.size_mm) / 12).toPrecision(2));

/** What part of the model is meant: what was picked on it, or what `none` says. */
function RegionField({
  reach,
  place,
  none,
}: {
  reach: number;
  place: Row | undefined;
  none: string;
}) {
  const region = useBench((bench) => bench.region);
  const setRegion = useBench((bench) => bench.setRegion);
  const n = region.points.length;
  return (
    <fieldset className="space-y-1.5 rounded border border-rule bg-paper px-3 py-2">
      <legend className="px-1 text-ink-2">Where</legend>
      <p>
        {n ? (
          <>
            Round <b className="font-[650]">{n === 1 ? "one point" : `${n} points`}</b>; click on
            the model for more.
          </>
        ) : none ? (
          <>
            <b className="font-[650]">{none}.</b> Click on it to take only what is round a point.
          </>
        ) : (
          "Click on the model where it is to be done."
        )}
      </p>
      <label className="grid grid-cols-[1fr_112px_32px] items-center gap-x-2">
        <span className="text-ink-2">How far round</span>
        <input
          type="number"
          step="any"
          min={0.01}
          className={inputLook}
          value={reach}
          onChange={(event) => setRegion({ reach: Math.max(0, Number(event.target.value)) })}
        />
        <span>mm</span>
      </label>
      <div className="flex flex-wrap gap-x-3">
        {place && n < MOST_POINTS && (
          <Button
            look="quiet"
            className="!px-0"
            onClick={() => setRegion({ points: [...region.points, place.spot.at] })}
          >
            Add finding {place.number}
          </Button>
        )}
        {n > 0 && (
          <>
            <Button
              look="quiet"
              className="!px-0"
              onClick={() => setRegion({ points: region.points.slice(0, -1) })}
            >
              Take the last back
            </Button>
            <Button look="quiet" className="!px-0" onClick={() => setRegion({ points: [] })}>
              {none ? "The whole model" : "Take all back"}
            </Button>
          </>
        )}
      </div>
    </fieldset>
  );
}
