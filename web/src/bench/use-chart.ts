import type { Question, Revision } from "../api/client";
import type { Soundings } from "../viewer/soundings";
import type { Row } from "./rows";
import { useBench } from "./store";
import { useSoundings } from "./use-mesh";

export type Chart = {
  /** Whether there are depths to draw for the open question. */
  sounded: boolean;
  /** The depths, when they are to be drawn and have come. */
  soundings: Soundings | null;
  /**
   * The line on the chart: what was tried out, what the chosen place is held against, or what the
   * sheet asks of a wall standing free.
   */
  limit: number;
};

/** The chart of depths that goes with a revision while its walls are looked at. */
export function useChart(
  revision: Revision | undefined,
  question: Question | undefined,
  chosen: Row | undefined,
): Chart {
  const charted = useBench((bench) => bench.charted);
  const limit = useBench((bench) => bench.limit);
  const sounded = question?.key === "walls" && revision?.sounded === true;
  const soundings = useSoundings(sounded && charted ? revision.examination : null).data ?? null;
  return {
    sounded,
    soundings: sounded && charted ? soundings : null,
    limit:
      limit ?? (sounded && chosen ? chosen.spot.limit_mm : null) ?? revision?.sheet?.wall_free ?? 1,
  };
}
