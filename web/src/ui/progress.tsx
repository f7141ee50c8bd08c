import { useEffect, useRef, useState } from "react";
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

/** A share of the work, and when it was seen to be done, ms. */
type Seen = { at: number; fraction: number };

/** What of the work was seen counts so long: what goes on now tells more than how it began, ms. */
const LOOKED_AT = 10_000;
/** Of less than this nothing is told: the first steps say little. */
const LEAST = 0.04;
const LEAST_MS = 2_000;

/** How much longer it takes at the rate of the last seconds, ms; null until that can be told. */
export function remaining(seen: readonly Seen[], now: number): number | null {
  const first = seen.find(({ at }) => now - at <= LOOKED_AT);
  const last = seen.at(-1);
  if (!first || !last) return null;
  const [done, took] = [last.fraction - first.fraction, now - first.at];
  if (done < LEAST || took < LEAST_MS) return null;
  return ((1 - last.fraction) * took) / done;
}

/** How far a job was when. */
function useSeen({ id, fraction }: Job, now: number): readonly Seen[] {
  const seen = useRef<{ of: number; all: Seen[] }>({ of: id, all: [] });
  if (seen.current.of !== id) seen.current = { of: id, all: [] };
  const { all } = seen.current;
  if (all.at(-1)?.fraction !== fraction) all.push({ at: now, fraction });
  return all;
}

const DOING: Record<Job["kind"], string> = {
  receive: "Examining the file",
  operate: "Working on it",
  judge: "Judging it by the material",
  mend: "Mending",
  release: "Writing and reading back",
  compare: "Comparing two revisions",
  derive: "Making it of another item",
  measure: "Measuring two pieces",
};

/** Work that goes on: its step, how long it has taken, and a way to stop it. */
export function JobProgress({ job, onCancel }: { job: Job; onCancel: () => void }) {
  const now = useNow();
  const left = remaining(useSeen(job, now), now);
  const since = job.started ? now - new Date(job.started).getTime() : 0;
  return (
    <section aria-live="polite" className="border-b border-rule bg-sheet px-4 py-3">
      <div className="mb-1.5 flex justify-between gap-3">
        <b className="font-[650]">{DOING[job.kind]}</b>
        <span className="text-ink-2">
          {seconds(since)}
          {left !== null && `, about ${seconds(Math.max(1000, left))} left`}
        </span>
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
