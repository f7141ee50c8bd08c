import { DropdownMenu } from "radix-ui";
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

const TOGGLES: readonly { look: keyof Looks; title: string; key: string }[] = [
  { look: "seeThrough", title: "See through", key: "S" },
  { look: "triangles", title: "Triangles", key: "T" },
  { look: "tinted", title: "Pieces tinted", key: "G" },
  { look: "insideMarked", title: "Inside striped", key: "I" },
];

const line = "flex w-full items-center justify-between gap-6 px-2.5 py-1.5 text-left";

/** What helps looking, at the view's upper left. */
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
  const { toggle, look, chart, showChanges } = useBench.getState();
  return (
    <div
      role="toolbar"
      aria-label="Looking"
      aria-orientation="vertical"
      className="absolute left-3 top-3 w-[132px] divide-y divide-rule overflow-hidden rounded bg-paper/95 shadow"
    >
      <button type="button" className={`${line} hover:bg-paper-2`} onClick={() => look("whole")}>
        Whole model <Key>W</Key>
      </button>
      <DropdownMenu.Root>
        <DropdownMenu.Trigger className={`${line} hover:bg-paper-2`}>
          Seen from… <span aria-hidden="true">▸</span>
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content
            side="right"
            align="start"
            sideOffset={6}
            className="z-30 min-w-[120px] divide-y divide-rule rounded bg-paper shadow-lg"
          >
            {DIRECTIONS.map(({ to, key }) => (
              <DropdownMenu.Item
                key={to}
                onSelect={() => look(to)}
                className={`${line} outline-none data-[highlighted]:bg-paper-2`}
              >
                {to} <Key>{key}</Key>
              </DropdownMenu.Item>
            ))}
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
      {TOGGLES.map(({ look: which, title, key }) => (
        <Switch key={which} on={looks[which]} onClick={() => toggle(which)} letter={key}>
          {title}
        </Switch>
      ))}
      {props.sounded && (
        <Switch on={charted} onClick={chart} letter="Z">
          Soundings
        </Switch>
      )}
      {props.changed && (
        <Switch on={changes} onClick={showChanges} letter="K">
          Changes
        </Switch>
      )}
      {props.onBeside && (
        <Switch on={props.beside} onClick={props.onBeside} letter=",">
          Side by side
        </Switch>
      )}
      {props.onBack && (
        <button
          type="button"
          title="Hold it down to see the revision before"
          className={`${line} hover:bg-paper-2 active:bg-sheet`}
          onPointerDown={() => props.onBack?.(true)}
          onPointerUp={() => props.onBack?.(false)}
          onPointerLeave={() => props.onBack?.(false)}
        >
          Before, held <Key>Q</Key>
        </button>
      )}
    </div>
  );
}

function Switch(props: { on: boolean; onClick: () => void; letter: string; children: string }) {
  return (
    <button
      type="button"
      aria-pressed={props.on}
      onClick={props.onClick}
      className={`${line} border-l-3 pl-[7px] ${
        props.on ? "border-l-blue bg-sheet font-[650]" : "border-l-transparent hover:bg-paper-2"
      }`}
    >
      {props.children} <Key>{props.letter}</Key>
    </button>
  );
}

function Key({ children }: { children: string }) {
  return <kbd className="font-sans text-small font-normal text-ink-2">{children}</kbd>;
}
