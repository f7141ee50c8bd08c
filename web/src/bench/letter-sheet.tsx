import type { Item } from "../api/client";
import { Button } from "../ui/button";
import { type Letter, PARTS, type Part } from "./use-letter";

const TITLES: Record<Part, string> = {
  opening: "",
  found: "What we found in your file",
  changed: "What we changed",
  accepted: "What stays as it is",
};

/** The letter as it would go, to be read and written anew. */
export function LetterSheet({ item, letter }: { item: Item; letter: Letter }) {
  return (
    <main className="dock min-w-0 flex-1 overflow-auto px-8 py-5">
      <article
        aria-label="Letter"
        className="mx-auto min-h-full max-w-[660px] bg-sheet px-9 py-8 shadow-lg"
      >
        <header className="flex justify-between gap-4 border-b-3 border-blue pb-3">
          <div className="min-w-0">
            <h2 className="break-words text-title font-[650]">{item.name}</h2>
            <p className="text-ink-2">
              Order {item.order.number}, {item.order.customer_name}
            </p>
          </div>
          <p className="whitespace-nowrap text-ink-2">as it will go</p>
        </header>
        {PARTS.map((part) => (
          <section key={part} className="mt-4">
            {TITLES[part] && (
              <h3 className="border-b border-rule pb-1 font-[650]">{TITLES[part]}</h3>
            )}
            <textarea
              aria-label={TITLES[part] || "Opening"}
              // a line of its own for each entry, and one that wraps now and then
              rows={rowsOf(letter.text[part])}
              placeholder="Nothing; left out of the letter."
              className="-mx-[5px] mt-1 w-[calc(100%+10px)] resize-none rounded border border-transparent bg-transparent px-1 py-1 leading-5 hover:border-rule focus:border-slate"
              value={letter.text[part].trimStart()}
              onChange={(event) => letter.write(part, event.target.value)}
            />
          </section>
        ))}
        <section className="mt-4">
          <h3 className="border-b border-rule pb-1 font-[650]">Walls, and the file as delivered</h3>
          <p className="mt-1 text-ink-2">
            Thinnest walls against their limits, name, size, volume and triangles: measured on the
            file itself once it is written, and told as they are.
          </p>
        </section>
        <footer className="mt-6 flex items-center justify-between gap-3 border-t border-rule pt-3 text-ink-2">
          <span>Every line is an entry. Reasons that were given inside the shop are not told.</span>
          {letter.edited && (
            <Button look="quiet" className="!px-0" onClick={letter.asProposed}>
              As proposed
            </Button>
          )}
        </footer>
      </article>
    </main>
  );
}

const LINE = 92;

function rowsOf(text: string): number {
  const lines = text.split("\n");
  return lines.reduce((n, line) => n + Math.max(1, Math.ceil(line.length / LINE)), 0);
}
