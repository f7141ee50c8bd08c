import { useRef, useState } from "react";
import type { Job } from "../api/client";
import { isOpen } from "../api/queries";
import { Button } from "../ui/button";
import { Notice } from "../ui/notice";

/** What the view shows while there is no model. */
export function InsteadOfView({ problem, job }: { problem: string | undefined; job: Job | null }) {
  if (problem) {
    return (
      <div className="h-full text-chalk">
        <Notice title="There is nothing to show.">
          <p className="text-chalk">{problem}</p>
          <p className="mt-2 text-chalk">
            The file as received is kept; it can be fetched on the left.
          </p>
        </Notice>
      </div>
    );
  }
  return (
    <div className="h-full text-chalk">
      <Notice title={isOpen(job) ? "The file is being examined…" : "Fetching the model…"} />
    </div>
  );
}

/** How the last piece of work ended, when it did not end well; told once, can be put away. */
export function Ended({ job }: { job: Job }) {
  const [away, setAway] = useState(false);
  const atFirst = useRef(job.finished ? Date.now() - new Date(job.finished).getTime() : 0);
  const old = atFirst.current > 120_000;
  if (away || old || job.state === "done" || job.kind === "receive" || !job.message) return null;
  return (
    <div
      role="alert"
      className="flex gap-3 border-b border-l-3 border-rule border-l-rust bg-sheet px-4 py-2.5"
    >
      <span className="flex-1">
        <b className="block font-[650]">{job.state === "cancelled" ? "Cancelled" : "Not done"}</b>
        {job.message}
      </span>
      <Button look="quiet" onClick={() => setAway(true)}>
        Put away
      </Button>
    </div>
  );
}
