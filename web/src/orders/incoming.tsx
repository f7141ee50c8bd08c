import { Link } from "react-router";
import { Button } from "../ui/button";
import { Bar } from "../ui/progress";
import { useUploads } from "./upload";

/** Files on their way in, and what became of them, until put away. */
export function Incoming() {
  const { uploads, clear } = useUploads();
  if (!uploads.length) return null;
  return (
    <aside
      aria-label="Incoming files"
      className="fixed bottom-4 right-4 z-20 max-h-[50vh] w-[360px] overflow-auto rounded border border-rule bg-paper shadow-xl"
    >
      <div className="flex items-center justify-between border-b border-rule px-4 py-2">
        <b className="font-[650]">Incoming</b>
        <Button look="quiet" onClick={clear}>
          Put away
        </Button>
      </div>
      <ul>
        {uploads.map((one) => (
          <li key={one.key} className="border-b border-paper-3 px-4 py-2">
            <div className="flex justify-between gap-3">
              <span className="truncate font-[650]">{one.name}</span>
              <span className="shrink-0 text-ink-2">
                {one.state === "sending" ? `${Math.round(one.fraction * 100)} %` : one.state}
              </span>
            </div>
            {one.state === "sending" && <Bar fraction={one.fraction} label={one.name} />}
            {one.problem && <p className="text-rust">{one.problem}</p>}
            {one.item && (
              <Link to={`/items/${one.item}`} className="text-blue hover:underline">
                Open on the bench
              </Link>
            )}
          </li>
        ))}
      </ul>
    </aside>
  );
}
