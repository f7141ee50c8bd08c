import { useEffect, useState } from "react";
import type { Job } from "../api/client";
import { Button } from "./button";
import { seconds } from "./format";

export function Bar({ fraction, label }: { fraction: number; label: string }) {
  return (
    <div
      role="progressbar"
      aria-label={label}
      aria-valuemin={0}
      aria-valuemax={100}
      aria-valuenow={Math.round(fraction * 100)}
      className="h-1.5 overflow-hidden rounded-full bg-paper-3"
    >
      <div
        className="h-full bg-blue transition-[width] duration-200"
        style={{ width: `${Math.max(2, fraction * 100)}%` }}
      />
    </div>
  );
}

function useNow(): number {
  const [now, setNow] = useState(() => Date.now());
  useEffect(() => {
    const timer = setInterval(() => setNow(Date.now()), 500);
    return () => clearInterval(timer);
  }, []);
  return now;
}

const DOING: Record<Job["kind"], string> = {
  receive: "Examining the file",
  operate: "Working on it",
  judge: "Judging it by the material",
  mend: "Mending",
  release: "Writing and reading back",
};

/** Work that goes on: its step, how long it has taken, and a way to stop it. */
export function JobProgress({ job, onCancel }: { job: Job; onCancel: () => void }) {
  const now = useNow();
  const since = job.started ? now - new Date(job.started).getTime() : 0;
  return (
    <section aria-live="polite" className="border-b border-rule bg-sheet px-4 py-3">
      <div className="mb-1.5 flex justify-between gap-3">
        <b className="font-[650]">{DOING[job.kind]}</b>
        <span className="text-ink-2">{seconds(since)}</span>
      </div>
      <Bar fraction={job.fraction} label={DOING[job.kind]} />
      <div className="mt-2 flex items-center justify-between gap-3">
        <span className="text-ink-2">
          {job.state === "waiting" ? job.message || "Waits its turn" : job.step}
        </span>
        <Button onClick={onCancel} hint="C">
          Cancel
        </Button>
      </div>
    </section>
  );
}
