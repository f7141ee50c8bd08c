import { useState, type ReactNode } from "react";

type Props = {
  /** Null where files cannot be taken in. */
  onFiles: ((files: File[]) => void) | null;
  children: ReactNode;
};

/** The middle of the screen; files may be dropped anywhere on it. */
export function DropZone({ onFiles, children }: Props) {
  const [over, setOver] = useState(false);
  const holdsFiles = (event: React.DragEvent) =>
    onFiles !== null && event.dataTransfer.types.includes("Files");
  return (
    <main
      data-testid="drop-zone"
      className="relative flex min-w-0 flex-1 flex-col border-l border-rule"
      onDragOver={(event) => {
        if (!holdsFiles(event)) return;
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={(event) => {
        if (!event.currentTarget.contains(event.relatedTarget as Node | null)) setOver(false);
      }}
      onDrop={(event) => {
        if (!onFiles) return;
        event.preventDefault();
        setOver(false);
        onFiles([...event.dataTransfer.files]);
      }}
    >
      {children}
      {over && (
        <div className="strakes pointer-events-none absolute inset-2 z-20 flex flex-col items-center justify-center gap-2 rounded border border-dashed border-blue opacity-95">
          <b className="text-verdict font-[650]">Let go here</b>
          <span className="text-ink-2">
            STL, OBJ, PLY, 3MF, OFF or a ZIP of them, up to 500 MB each: items of a new order, or of
            one that is open.
          </span>
        </div>
      )}
    </main>
  );
}
