import { inputLook } from "../ui/field";
import type { Nested } from "./pieces";

/** What of the pieces is listed, and in which order. */
export type PieceListing = {
  text: string;
  /** As long as this at least, mm. */
  least: number;
  sort: "nested" | "largest" | "smallest" | "volume";
};

export const ALL_PIECES: PieceListing = { text: "", least: 0, sort: "nested" };

/** The pieces that are listed: as they lie, or in another order and then side by side. */
export function listedPieces(pieces: readonly Nested[], listing: PieceListing): Nested[] {
  const { least, sort } = listing;
  const words = listing.text.toLowerCase().split(/\s+/).filter(Boolean);
  const kept = pieces.filter((one) => {
    const told = `${one.number} ${one.name} ${one.what}`.toLowerCase();
    return one.longest_mm >= least && words.every((word) => told.includes(word));
  });
  if (sort === "nested") return kept;
  const by = {
    largest: (a: Nested, b: Nested) => b.longest_mm - a.longest_mm,
    smallest: (a: Nested, b: Nested) => a.longest_mm - b.longest_mm,
    volume: (a: Nested, b: Nested) => Math.abs(b.volume_mm3) - Math.abs(a.volume_mm3),
  }[sort];
  return kept.sort(by).map((one) => ({ ...one, depth: 0 }));
}

/** One line over many pieces: what is looked for, how large at least, in which order. */
export function PieceFilter(props: {
  listing: PieceListing;
  onChange: (listing: PieceListing) => void;
}) {
  const { listing, onChange } = props;
  const set = (change: Partial<PieceListing>) => onChange({ ...listing, ...change });
  return (
    <div role="group" aria-label="Which pieces" className="grid grid-cols-2 gap-1.5 px-3.5 pb-2">
      <input
        type="search"
        aria-label="Find pieces"
        placeholder="number, name, kind"
        className={`${inputLook} col-span-2 !py-0.5`}
        value={listing.text}
        onChange={(event) => set({ text: event.target.value })}
      />
      <label className="flex items-center gap-1">
        over
        <input
          type="number"
          min={0}
          step="any"
          aria-label="Pieces as long as, mm"
          className={`${inputLook} !w-14 !px-1 !py-0.5`}
          value={listing.least || ""}
          placeholder="0"
          onChange={(event) => set({ least: Math.max(0, Number(event.target.value)) })}
        />
        mm
      </label>
      <select
        aria-label="Order of the pieces"
        className="min-w-0 rounded border border-rule bg-sheet px-1 py-0.5"
        value={listing.sort}
        onChange={(event) => set({ sort: event.target.value as PieceListing["sort"] })}
      >
        <option value="nested">as they lie</option>
        <option value="largest">longest first</option>
        <option value="smallest">shortest first</option>
        <option value="volume">by volume</option>
      </select>
    </div>
  );
}
