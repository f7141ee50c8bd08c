import { length } from "../ui/format";
import { CHANGES, type Deviation, SHARES } from "../viewer/deviation";

const reading = (mm: number) => (mm < 0.1 ? mm.toFixed(3) : mm.toFixed(2));

/** What the tints of the changes mean, in millimetres. */
export function ChangesLegend(props: { deviation: Deviation | null; before: string }) {
  const { deviation, before } = props;
  return (
    <section
      aria-label="What changed"
      className="absolute bottom-3 left-1/2 w-[400px] -translate-x-1/2 rounded bg-paper/95 px-3 py-2.5 shadow"
    >
      {!deviation ? (
        <p>Comparing with {before}…</p>
      ) : deviation.most === 0 ? (
        <p>What is here lies where it lay in {before}.</p>
      ) : (
        <>
          <div className="flex">
            {CHANGES.map((tint, i) => (
              <div key={tint} className="min-w-0 flex-1">
                <div className="h-3 border-y border-ink/40" style={{ background: tint }} />
                <div className="whitespace-nowrap text-center text-small">
                  {i === 0
                    ? "as it was"
                    : i === 1
                      ? "a little"
                      : `over ${reading(SHARES[i - 1]! * deviation.most)}`}
                </div>
              </div>
            ))}
          </div>
          <p className="mt-1">
            At most <b className="font-[650]">{length(deviation.most)}</b> from {before}.
          </p>
        </>
      )}
    </section>
  );
}
