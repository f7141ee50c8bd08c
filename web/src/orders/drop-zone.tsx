import { useState } from "react";
import { Button } from "../ui/button";

/** Where files are dropped; the whole width is the target. */
export function DropZone({ onFiles }: { onFiles: (files: File[]) => void }) {
  const [over, setOver] = useState(false);
  return (
    <div
      data-testid="drop-zone"
      className={`mx-5 my-4 flex items-center gap-4 rounded border border-dashed px-4 py-3 ${
        over ? "border-blue bg-sheet" : "strakes border-slate"
      }`}
      onDragOver={(event) => {
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(event) => {
        event.preventDefault();
        setOver(false);
        onFiles([...event.dataTransfer.files]);
      }}
    >
      <b className="text-verdict font-[650]">Drop files here</b>
      <span className="flex-1 text-ink-2">
        STL, OBJ, PLY, 3MF or OFF, up to 500 MB each. They become items of a new order, or of one
        that is open.
      </span>
      <Button look="primary" hint="N" onClick={() => onFiles([])}>
        New order
      </Button>
    </div>
  );
}
