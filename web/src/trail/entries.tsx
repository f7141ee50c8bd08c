import { Link } from "react-router";
import type { Entry } from "../api/client";
import { timeOf } from "../ui/format";

/** What happened, the last first. */
export function Entries({ entries, linked }: { entries: Entry[]; linked: boolean }) {
  if (!entries.length) return <p className="px-1 py-3 text-ink-2">Nothing has happened yet.</p>;
  return (
    <ol aria-label="Trail">
      {entries.map((one, i) => (
        <li
          key={i}
          data-what={one.what}
          className="grid grid-cols-[112px_112px_1fr] gap-3 border-b border-rule px-1 py-1.5"
        >
          <time dateTime={one.at} className="text-ink-2">
            {timeOf(one.at)}
          </time>
          <span className="truncate" title={one.by}>
            {one.by || "the shop"}
          </span>
          <span className="min-w-0 break-words">
            {one.text}
            {linked && one.item !== null && (
              <>
                {" "}
                <Link to={`/items/${one.item}`} className="text-blue underline underline-offset-2">
                  its bench
                </Link>
              </>
            )}
          </span>
        </li>
      ))}
    </ol>
  );
}
