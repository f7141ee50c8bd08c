import { DropdownMenu } from "radix-ui";
import { useEffect, useRef, useState } from "react";
import { useMaterials } from "../api/queries";
import { inputLook } from "../ui/field";
import { ITEM_LOOK, MENU_LOOK } from "../ui/menu";
import type { Asked } from "./asked";
import { ALWAYS, COLUMNS } from "./columns";

const PAUSE = 200;
const DUES = [
  ["late", "late"],
  ["tomorrow", "due by tomorrow"],
  ["week", "due within a week"],
] as const;

type Props = {
  asked: Asked;
  onAsk: (part: Asked) => void;
  columns: string[];
  onColumns: (keys: string[]) => void;
  children: React.ReactNode;
};

/** One line to find and to narrow with. */
export function FindLine({ asked, onAsk, columns, onColumns, children }: Props) {
  const materials = useMaterials().data ?? [];
  const material = materials.find((one) => one.key === asked.material);
  return (
    <div className="flex flex-wrap items-center gap-2 px-5 pb-3 pt-4">
      <Search words={asked.q ?? ""} onWords={(q) => onAsk({ q })} />
      {DUES.map(([key, words]) => (
        <Chip
          key={key}
          on={asked.due === key}
          onClick={() => onAsk({ due: asked.due === key ? undefined : key })}
        >
          {words}
        </Chip>
      ))}
      <Chip
        on={asked.assignee === "me"}
        onClick={() => onAsk({ assignee: asked.assignee === "me" ? undefined : "me" })}
      >
        mine
      </Chip>
      <DropdownMenu.Root>
        <DropdownMenu.Trigger className={chipLook(Boolean(material))}>
          {material ? material.name : "any material"}
        </DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content
            align="start"
            sideOffset={4}
            className={`${MENU_LOOK} max-h-80 overflow-auto`}
          >
            <DropdownMenu.RadioGroup
              value={asked.material ?? ""}
              onValueChange={(key) => onAsk({ material: key || undefined })}
            >
              {[{ key: "", name: "any material" }, ...materials].map((one) => (
                <DropdownMenu.RadioItem key={one.key} value={one.key} className={ITEM_LOOK}>
                  {one.name}
                </DropdownMenu.RadioItem>
              ))}
            </DropdownMenu.RadioGroup>
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
      <DropdownMenu.Root>
        <DropdownMenu.Trigger className={chipLook(false)}>columns</DropdownMenu.Trigger>
        <DropdownMenu.Portal>
          <DropdownMenu.Content align="start" sideOffset={4} className={MENU_LOOK}>
            {COLUMNS.filter((one) => !ALWAYS.includes(one.key)).map((one) => (
              <DropdownMenu.CheckboxItem
                key={one.key}
                className={ITEM_LOOK}
                checked={columns.includes(one.key)}
                onSelect={(event) => event.preventDefault()}
                onCheckedChange={(on) =>
                  onColumns(on ? [...columns, one.key] : columns.filter((key) => key !== one.key))
                }
              >
                <span className="inline-block w-4">{columns.includes(one.key) ? "✓" : ""}</span>
                {one.title}
              </DropdownMenu.CheckboxItem>
            ))}
          </DropdownMenu.Content>
        </DropdownMenu.Portal>
      </DropdownMenu.Root>
      <span className="flex-1" />
      {children}
    </div>
  );
}

const chipLook = (on: boolean) =>
  `rounded border px-2.5 py-1 ${
    on
      ? "border-slate border-b-blue bg-sheet font-[650] shadow-[inset_0_-2px_0_var(--color-blue)]"
      : "border-rule bg-sheet hover:bg-paper-2"
  }`;

function Chip(props: { on: boolean; onClick: () => void; children: string }) {
  return (
    <button
      type="button"
      aria-pressed={props.on}
      onClick={props.onClick}
      className={chipLook(props.on)}
    >
      {props.children}
    </button>
  );
}

/** The words go into the address once the typing rests. */
function Search({ words, onWords }: { words: string; onWords: (words: string) => void }) {
  const [text, setText] = useState(words);
  const [seen, setSeen] = useState(words);
  if (seen !== words) {
    // changed from elsewhere: Back, or a list on the left
    setSeen(words);
    setText(words);
  }
  const ask = useRef(onWords);
  useEffect(() => {
    ask.current = onWords;
  });
  useEffect(() => {
    if (text === words) return undefined;
    const timer = setTimeout(() => {
      setSeen(text);
      ask.current(text);
    }, PAUSE);
    return () => clearTimeout(timer);
  }, [text, words]);
  const askNow = () => {
    if (text === words) return;
    setSeen(text);
    onWords(text);
  };
  return (
    <input
      id="find"
      type="search"
      aria-label="Find by order, customer, file or name"
      aria-keyshortcuts="/"
      placeholder="Order, customer, file, name   /"
      className={`${inputLook} min-w-[210px] max-w-[300px] flex-1`}
      value={text}
      onChange={(event) => setText(event.target.value)}
      onKeyDown={(event) => {
        if (event.key !== "Escape" && event.key !== "Enter") return;
        // the list stays narrowed: some browsers empty the field by Escape
        event.preventDefault();
        event.currentTarget.blur();
        askNow();
      }}
    />
  );
}
