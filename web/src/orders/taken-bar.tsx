import { useState } from "react";
import type { ItemLine, Outcome, Together } from "../api/client";
import { useAccounts } from "../api/queries";
import { Button } from "../ui/button";
import { Dialog } from "../ui/dialog";
import { Complaint, Field, inputLook } from "../ui/field";
import { plural, UNIT_NAMES } from "../ui/format";
import { inDays } from "../ui/dates";
import { MaterialField } from "./material-field";
import { useTogether } from "./queries";

type Act = Together["act"];

/** Actions and what is asked before each. */
const ACTS: readonly { act: Act; says: string; key: string; asks: string }[] = [
  { act: "mend", says: "Mend…", key: "M", asks: "Mend them by the shop's policy" },
  { act: "size", says: "Size…", key: "⇧S", asks: "One unit or one factor for all of them" },
  { act: "material", says: "Material…", key: "⇧M", asks: "Take another material" },
  { act: "due", says: "Due…", key: "⇧D", asks: "Set when their orders are due" },
  { act: "assign", says: "Give to…", key: "⇧G", asks: "Give them to somebody to look after" },
  { act: "set-aside", says: "Set aside…", key: "⇧X", asks: "Set them aside" },
];

export const TAKEN_KEYS = ACTS.map(({ key, says }) => [key, says.replace("…", "")] as const);

type Props = {
  taken: ReadonlyMap<number, ItemLine>;
  asking: Act | null;
  onAsking: (act: Act | null) => void;
  /** What was done is let go; what was not stays taken. */
  onLeft: (stay: ReadonlySet<number>) => void;
};

/** What can be done with the rows that were taken, together. */
export function TakenBar({ taken, asking, onAsking, onLeft }: Props) {
  const [told, setTold] = useState<Outcome[] | null>(null);
  const together = useTogether();
  const items = [...taken.values()];
  const act = (body: Omit<Together, "items">) =>
    together.mutate(
      { ...body, items: items.map((one) => ({ item: one.id, revision: one.current })) },
      {
        onSuccess: (outcomes) => {
          onAsking(null);
          const not = outcomes.filter((one) => !one.done);
          setTold(outcomes);
          onLeft(new Set(not.map((one) => one.item)));
        },
      },
    );
  const chosen = ACTS.find((one) => one.act === asking);
  if (!items.length && !told) return null;
  return (
    <section
      aria-label="Taken items"
      className="on-dark flex min-h-12 flex-wrap items-center gap-x-5 gap-y-1 bg-ink px-5 py-2 text-chalk"
    >
      <b className="font-[650]" aria-live="polite">
        {told ? outcomeWords(told) : `${items.length} taken`}
      </b>
      {items.length > 0 &&
        ACTS.map((one) => (
          <button
            key={one.act}
            type="button"
            aria-keyshortcuts={one.key.replace("⇧", "Shift+")}
            disabled={together.isPending}
            className="underline-offset-4 hover:underline disabled:opacity-60"
            onClick={() => {
              setTold(null);
              onAsking(one.act);
            }}
          >
            {one.says} <kbd className="font-sans text-small opacity-70">{one.key}</kbd>
          </button>
        ))}
      <span className="flex-1" />
      {together.isError && <span role="alert">{together.error.message}</span>}
      <button
        type="button"
        className="underline-offset-4 hover:underline"
        onClick={() => {
          setTold(null);
          onLeft(new Set());
        }}
      >
        {items.length ? "Let go" : "Put away"}
      </button>
      {told?.some((one) => !one.done) && (
        <ul className="w-full text-small">
          {told
            .filter((one) => !one.done)
            .slice(0, 4)
            .map((one) => (
              <li key={one.item}>
                {taken.get(one.item)?.name ?? `Item ${one.item}`}: {one.why}
              </li>
            ))}
        </ul>
      )}
      {chosen && items.length > 0 && (
        <Ask
          key={chosen.act}
          act={chosen.act}
          title={chosen.asks}
          items={items}
          busy={together.isPending}
          problem={together.error?.message}
          onClose={() => onAsking(null)}
          onGive={(given) => act({ act: chosen.act, ...given })}
        />
      )}
    </section>
  );
}

function outcomeWords(outcomes: Outcome[]): string {
  const done = outcomes.filter((one) => one.done).length;
  const not = outcomes.length - done;
  if (!not) return `Done for ${plural(done, "item")}`;
  return done ? `Done for ${done}, not for ${not}` : `Not done for ${plural(not, "item")}`;
}

const SAYS: Record<Act, string> = {
  mend: "Mend",
  size: "Take it",
  material: "Take",
  due: "Set",
  assign: "Give",
  "set-aside": "Set aside",
};

type Given = Omit<Together, "act" | "items">;

function Ask(props: {
  act: Act;
  title: string;
  items: ItemLine[];
  busy: boolean;
  problem: string | undefined;
  onClose: () => void;
  onGive: (given: Given) => void;
}) {
  const { act, items } = props;
  const [material, setMaterial] = useState("");
  const [reason, setReason] = useState("");
  const [due, setDue] = useState(() => inDays(3));
  const [assignee, setAssignee] = useState("");
  const [unit, setUnit] = useState("");
  const [factor, setFactor] = useState("");
  const people = useAccounts();
  const orders = new Set(items.map((one) => one.order.number)).size;
  const given: Record<string, Given> = {
    size: unit ? { unit: unit as NonNullable<Given["unit"]> } : { factor: Number(factor) },
    material: { material, reason },
    "set-aside": { reason },
    due: { due: new Date(due).toISOString() },
    assign: { assignee },
  };
  const about = {
    due: `${plural(orders, "order")}, with all their items.`,
    size: `${plural(items.length, "item")}, so that they stay in proportion; each is judged anew.`,
    mend: `${plural(items.length, "item")}. What only a person can decide waits for one.`,
  }[act as string];
  return (
    <Dialog
      open
      onOpenChange={(open) => !open && props.onClose()}
      title={props.title}
      about={about ?? `${plural(items.length, "item")}.`}
    >
      <form
        className="flex flex-col gap-4"
        onSubmit={(event) => {
          event.preventDefault();
          props.onGive(given[act] ?? {});
        }}
      >
        {act === "material" && <MaterialField value={material} onChange={setMaterial} />}
        {act === "size" && (
          <>
            <Field label="Read the files' numbers as">
              <select
                className={inputLook}
                value={unit}
                onChange={(event) => setUnit(event.target.value)}
              >
                <option value="">as they are read now</option>
                {Object.entries(UNIT_NAMES).map(([value, says]) => (
                  <option key={value} value={value}>
                    {says}
                  </option>
                ))}
              </select>
            </Field>
            {!unit && (
              <Field label="and make all of them larger by a factor of">
                <input
                  className={inputLook}
                  type="number"
                  required
                  min={0.0001}
                  max={10000}
                  step="any"
                  placeholder="25.4 from inches to millimetres"
                  value={factor}
                  onChange={(event) => setFactor(event.target.value)}
                />
              </Field>
            )}
          </>
        )}
        {act === "due" && (
          <Field label="Due">
            <input
              className={inputLook}
              type="datetime-local"
              required
              value={due}
              onChange={(event) => setDue(event.target.value)}
            />
          </Field>
        )}
        {act === "assign" && (
          <Field label="Who looks after them">
            <select
              className={inputLook}
              value={assignee}
              onChange={(event) => setAssignee(event.target.value)}
            >
              <option value="">Nobody</option>
              {people.data
                ?.filter((one) => one.active && one.role !== "read-only")
                .map((one) => (
                  <option key={one.username} value={one.username}>
                    {one.name}
                  </option>
                ))}
            </select>
          </Field>
        )}
        {(act === "material" || act === "set-aside") && (
          <Field label="Why">
            <input
              className={inputLook}
              required
              minLength={3}
              maxLength={1000}
              value={reason}
              onChange={(event) => setReason(event.target.value)}
            />
          </Field>
        )}
        {props.problem && <Complaint>{props.problem}</Complaint>}
        <div className="flex justify-end gap-2">
          <Button onClick={props.onClose}>Not now</Button>
          <Button look="primary" type="submit" disabled={props.busy}>
            {SAYS[act]}
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
