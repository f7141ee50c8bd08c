import type { Job, Revision } from "../api/client";
import { isOpen } from "../api/queries";
import { Button } from "../ui/button";
import { shortfall } from "../ui/format";
import { Bar } from "../ui/progress";
import { useBench } from "./store";

type Props = {
  revision: Revision;
  /** The judging that goes on, or the last that ended. */
  judging: Job | null;
  /** Whether the verdict that holds is still to come. */
  waits: boolean;
  /** Judge it now; null when nothing can be run. */
  onJudge: (() => void) | null;
  onStop: (job: number) => void;
};

/** What there is to say about *Walls* as a whole: being judged, how thin at least, all materials. */
export function WallsHead({ revision, judging, waits, onJudge, onStop }: Props) {
  const suits = useBench((bench) => bench.suits);
  const listSuits = useBench((bench) => bench.listSuits);
  const couldMiss = revision.report.could_miss_mm;
  return (
    <>
      {waits && isOpen(judging) && judging && (
        <div role="status" className="mt-3">
          <div className="mb-1.5 flex items-center justify-between gap-3">
            <b className="font-[650]">Being judged</b>
            <span className="text-ink-2">
              {judging.state === "waiting" ? "waits its turn" : judging.step}
            </span>
          </div>
          <Bar fraction={judging.fraction} label="Being judged" />
          <p className="mt-1.5 flex items-center justify-between gap-3 text-ink-2">
            Other work can go on meanwhile.
            <Button look="quiet" onClick={() => onStop(judging.id)}>
              Stop
            </Button>
          </p>
        </div>
      )}
      {waits && !isOpen(judging) && (
        <div className="mt-3">
          {judging?.message && <p className="mb-2">{judging.message}</p>}
          <Button look="primary" disabled={!onJudge} onClick={() => onJudge?.()}>
            Judge it now
          </Button>
        </div>
      )}
      <Thinnest revision={revision} />
      {couldMiss != null && (
        <p className="mt-2 text-ink-2">
          Large faces were measured every {couldMiss.toFixed(2)} mm; a thin place smaller than that
          could be missed.
        </p>
      )}
      <div role="group" aria-label="Listed" className="mt-3 flex gap-4">
        {[
          { title: "Thin places", of: false },
          { title: "All materials", of: true },
        ].map(({ title, of }) => (
          <button
            key={title}
            type="button"
            aria-pressed={suits === of}
            aria-keyshortcuts="J"
            onClick={() => listSuits(of)}
            className={`border-b-3 pb-0.5 ${
              suits === of ? "border-blue font-[650]" : "border-transparent hover:border-rule"
            }`}
          >
            {title}
          </button>
        ))}
      </div>
    </>
  );
}

/** The thinnest wall of each kind against its limit, whether that is enough or not. */
function Thinnest({ revision }: { revision: Revision }) {
  const { thinnest } = revision.report;
  if (!thinnest.length) return null;
  return (
    <table aria-label="Thinnest walls" className="mt-3 w-full">
      <tbody>
        {thinnest.map((one) => (
          <tr key={one.kind}>
            <th className="text-left font-normal text-ink-2">{one.title}</th>
            <td className="text-right">
              {one.thickness_mm === null ? (
                `none under ${one.beyond_mm.toFixed(2)} mm`
              ) : (
                <>
                  <b className={`font-[650] ${one.thickness_mm < one.limit_mm ? "text-rust" : ""}`}>
                    {shortfall(one.thickness_mm, one.limit_mm).found}
                  </b>{" "}
                  of {one.limit_mm.toFixed(2)} mm
                </>
              )}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
