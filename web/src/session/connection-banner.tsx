import { useConnection } from "../api/connection";

/** One line over every screen while the server cannot be reached; the screen stays as it is. */
export function ConnectionBanner() {
  const reached = useConnection((now) => now.reached);
  if (reached) return null;
  return (
    <p role="status" className="shrink-0 bg-rust px-4 py-1.5 text-center text-chalk">
      The server cannot be reached. What you see may be behind, and what you write stays here; it is
      tried again all the time.
    </p>
  );
}
