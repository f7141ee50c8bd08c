import { Button } from "../ui/button";
import { Bar } from "../ui/progress";
import type { Compared } from "./use-comparison";

/** Two revisions that are being compared, or why they are not. */
export function Comparing({ compared }: { compared: Compared }) {
  const { job, problem, start, stop } = compared;
  if (problem) {
    return (
      <p role="alert" className="flex items-center justify-between gap-2">
        {problem} <Button onClick={start}>Compare them</Button>
      </p>
    );
  }
  const says = job?.state === "running" ? job.step || "Comparing" : "Waits its turn";
  return (
    <div role="status" className="flex items-center justify-between gap-3">
      <div className="min-w-0 flex-1">
        <p className="mb-1 truncate text-ink-2">{says}</p>
        <Bar fraction={job?.fraction ?? 0} label="Comparing" />
      </div>
      {job && <Button onClick={stop}>Stop</Button>}
    </div>
  );
}
