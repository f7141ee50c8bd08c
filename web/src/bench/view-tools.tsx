import { DropdownMenu, Popover } from "radix-ui";
import { type ReactNode, useState } from "react";
import { inputLook } from "../ui/field";
import { Button } from "../ui/button";
import type { Direction } from "../viewer/rig";
import type { Looks } from "../viewer/viewer";
import { useBench } from "./store";

export const DIRECTIONS: readonly { to: Direction; key: string }[] = [
  { to: "front", key: "F" },
  { to: "back", key: "B" },
  { to: "left", key: "L" },
  { to: "right", key: "R" },
  { to: "above", key: "A" },
  { to: "under", key: "U" },
];

const LOOKS: readonly { look: keyof Looks; title: string; short: string; key: string }[] = [
  { look: "seeThrough", title: "See through", short: "see-through", key: "S" },
  { look: "triangles", title: "Triangles", short: "triangles", key: "T" },
  { look: "tinted", title: "Pieces tinted", short: "pieces tinted", key: "G" },
  { look: "insideMarked", title: "Inside striped", short: "inside striped", key: "I" },
  { look: "parallel", title: "Without perspective", short: "no perspective", key: "⇧W" },
];

const line =
  "flex w-full items-center justify-between gap-6 px-2.5 py-1.5 text-left outline-none data-[highlighted]:bg-paper-2";

/** What helps looking, in one line at the view's upper left; each opens to what it holds. */
export function ViewTools(props: {
  /** Shows the revision before as long as it is held; null if there is none. */
  onBack: ((held: boolean) => void) | null;
  /** Whether there is a revision before, to tell what changed since. */
  changed: boolean;
  /** Whether another revision stands beside; puts one there or away, null if there is none. */
  beside: boolean;
  onBeside: (() => void) | null;
  /** Whether depths can be drawn. */
  sounded: boolean;
}) {
  const looks = useBench((bench) => bench.looks);
  const charted = useBench((bench) => bench.charted);
  const changes = useBench((bench) => bench.changes);
  const { toggle, look, chart, showChanges, compareNumbers } = useBench.getState();
  const on = LOOKS.filter((one) => looks[one.look]).map((one) => one.short);
  if (props.sounded && charted) on.unshift("soundings");
  const compared = [changes && "changes", props.beside && "side by side"].filter(Boolean);
  const { onBeside, onBack } = props;
  return (
    <div
      role="toolbar"
      aria-label="Looking"
      className="absolute left-3 top-3 flex max-w-[calc(100%-24px)] gap-1.5"
    >
      <Menu says="Seen from…">
        <DropdownMenu.Item className={line} onSelect={() => look("whole")}>
          the whole <Key>W</Key>
        </DropdownMenu.Item>
        {DIRECTIONS.map(({ to, key }) => (
          <DropdownMenu.Item key={to} className={line} onSelect={() => look(to)}>
            {to} <Key>{key}</Key>
          </DropdownMenu.Item>
        ))}
      </Menu>
      <Turned />
      <Menu says="Look" on={inShort(on) || "plain"} all={on.join(", ")}>
        {props.sounded && (
          <Switch on={charted} onChange={chart} letter="Z">
            Soundings
          </Switch>
        )}
        {LOOKS.map(({ look: which, title, key }) => (
          <Switch key={which} on={looks[which]} onChange={() => toggle(which)} letter={key}>
            {title}
          </Switch>
        ))}
      </Menu>
      {(props.changed || onBeside) && (
        <Menu says={compared.length ? "Compare" : "Compare…"} on={compared.join(", ")}>
          {props.changed && (
            <Switch on={changes} onChange={showChanges} letter="K">
              What changed
            </Switch>
          )}
          {onBeside && (
            <Switch on={props.beside} onChange={onBeside} letter=",">
              Side by side
            </Switch>
          )}
          <DropdownMenu.Item className={line} onSelect={() => compareNumbers(true)}>
            In numbers <Key>⇧N</Key>
          </DropdownMenu.Item>
        </Menu>
      )}
      {onBack && (
        <button
          type="button"
          title="Hold it down to see the revision before"
          className="whitespace-nowrap rounded bg-paper/95 px-2 py-0.5 shadow hover:bg-paper-2 active:bg-sheet"
          onPointerDown={() => onBack(true)}
          onPointerUp={() => onBack(false)}
          onPointerLeave={() => onBack(false)}
        >
          Before, held <Key>Q</Key>
        </button>
      )}
    </div>
  );
}

/** Two at most by name: with more the line would not have room for what stands beside it. */
const inShort = (on: readonly string[]) =>
  on.length > 2 ? `${on[0]} and ${on.length - 1} more` : on.join(", ");

function Menu(props: { says: string; on?: string; all?: string; children: ReactNode }) {
  return (
    // what is behind stays in work: a look is switched while the model is turned
    <DropdownMenu.Root modal={false}>
      <DropdownMenu.Trigger
        title={props.all}
        className="min-w-0 truncate whitespace-nowrap rounded bg-paper/95 px-2 py-0.5 shadow hover:bg-paper-2"
      >
        <b className="font-[650]">{props.says}</b> {props.on} <span aria-hidden="true">▾</span>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content
          align="start"
          sideOffset={4}
          className="z-30 min-w-[170px] divide-y divide-rule rounded bg-paper shadow-lg"
        >
          {props.children}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </DropdownMenu.Root>
  );
}

function Switch(props: { on: boolean; onChange: () => void; letter: string; children: string }) {
  return (
    <DropdownMenu.CheckboxItem
      checked={props.on}
      onCheckedChange={props.onChange}
      // several are switched one after the other
      onSelect={(event) => event.preventDefault()}
      className={`${line} border-l-3 ${props.on ? "border-l-blue font-[650]" : "border-l-transparent"}`}
    >
      {props.children} <Key>{props.letter}</Key>
    </DropdownMenu.CheckboxItem>
  );
}

/** Where one looks from, in degrees: typed. */
function Turned() {
  const lookFrom = useBench((bench) => bench.lookFrom);
  const [round, setRound] = useState("0");
  const [up, setUp] = useState("30");
  const [a, b] = [Number(round), Number(up)];
  const wrong = !Number.isFinite(a) || !Number.isFinite(b) || Math.abs(b) > 90;
  return (
    <Popover.Root>
      <Popover.Trigger className="whitespace-nowrap rounded bg-paper/95 px-2 py-0.5 shadow hover:bg-paper-2">
        at degrees…
      </Popover.Trigger>
      <Popover.Portal>
        <Popover.Content
          align="start"
          sideOffset={4}
          aria-label="Where one looks from"
          className="z-30 rounded bg-paper p-3 shadow-lg"
        >
          <form
            className="grid grid-cols-[auto_80px_16px] items-center gap-2"
            onSubmit={(event) => {
              event.preventDefault();
              if (!wrong) lookFrom(a, b);
            }}
          >
            <Degrees says="round, from the front" value={round} onChange={setRound} />
            <Degrees says="up" value={up} onChange={setUp} />
            <Button type="submit" look="primary" className="col-span-3" disabled={wrong}>
              Look from there
            </Button>
          </form>
        </Popover.Content>
      </Popover.Portal>
    </Popover.Root>
  );
}

function Degrees(props: { says: string; value: string; onChange: (text: string) => void }) {
  return (
    <label className="contents">
      {props.says}
      <input
        inputMode="decimal"
        className={`${inputLook} !py-1`}
        value={props.value}
        onChange={(event) => props.onChange(event.target.value)}
      />
      °
    </label>
  );
}

function Key({ children }: { children: string }) {
  return <kbd className="font-sans text-small font-normal text-ink-2">{children}</kbd>;
}
