import { Dialog } from "./dialog";

export type KeyLine = readonly [key: string, does: string];

/** The keys of a screen. */
export function KeyList({
  open,
  onOpenChange,
  lines,
}: {
  open: boolean;
  onOpenChange: (open: boolean) => void;
  lines: readonly KeyLine[];
}) {
  return (
    <Dialog open={open} onOpenChange={onOpenChange} title="Keys">
      <dl className="grid grid-cols-2 gap-x-6 gap-y-1.5">
        {lines.map(([key, does]) => (
          <div key={key} className="flex items-baseline gap-3">
            <dt className="w-14 shrink-0">
              <kbd className="rounded-sm border border-rule bg-sheet px-1.5 font-sans">{key}</kbd>
            </dt>
            <dd>{does}</dd>
          </div>
        ))}
      </dl>
    </Dialog>
  );
}
