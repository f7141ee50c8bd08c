import type { Material, Revision } from "../api/client";
import { Button } from "../ui/button";
import { useBench } from "./store";

type Props = {
  revision: Revision;
  /** The item's material, once it is known. */
  material: Material | undefined;
  /** Judge it once more by its material's sheet; null when nothing can be run now. */
  onJudge: (() => void) | null;
};

/** What can be done about *Walls* as a whole: measure, judge again, look at all materials. */
export function WallsHead({ revision, material, onJudge }: Props) {
  const suits = useBench((bench) => bench.suits);
  const listSuits = useBench((bench) => bench.listSuits);
  const unmeasured = revision.report.unasked.some((one) => one.reason === "not-measured");
  const couldMiss = revision.report.could_miss_mm;
  const changed =
    revision.sheet !== null &&
    material?.rules != null &&
    JSON.stringify(revision.sheet) !== JSON.stringify(material.rules);
  return (
    <>
      {unmeasured && (
        <Button look="primary" className="mt-3" disabled={!onJudge} onClick={() => onJudge?.()}>
          Measure the walls
        </Button>
      )}
      {changed && (
        <p className="mt-3 flex items-center gap-3">
          <span className="flex-1">
            The rule sheet of {material.name.toLowerCase()} has changed since this was judged.
          </span>
          <Button disabled={!onJudge} onClick={() => onJudge?.()}>
            Judge again
          </Button>
        </p>
      )}
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
