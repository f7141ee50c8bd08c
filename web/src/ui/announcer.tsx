import { useEffect, useRef, useState } from "react";
import type { Job } from "../api/client";
import { useJobs } from "../api/queries";

/** Work as short as this is seen to end by who started it, ms. */
const LONG = 3_000;

/** Tells those who do not look that work has ended. */
export function Announcer() {
  const jobs = useJobs().data;
  const before = useRef<readonly Job[]>([]);
  const [told, setTold] = useState("");
  useEffect(() => {
    if (!jobs) return;
    const open = new Set(jobs.map((one) => one.id));
    const ended = before.current.filter(
      (one) => !open.has(one.id) && Date.now() - new Date(one.created).getTime() > LONG,
    );
    before.current = jobs;
    if (ended.length) setTold(ended.map((one) => `${one.item_name}: work has ended.`).join(" "));
  }, [jobs]);
  return (
    <p role="status" aria-live="polite" className="sr-only">
      {told}
    </p>
  );
}
