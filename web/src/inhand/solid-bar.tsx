import { useState } from "react";
import { Button } from "../ui/button";
import { Row } from "./bar";
import { cutOutBy } from "./cut";
import { type CutBySolid, type Cutter, useHand } from "./hand";
import { Spacing, USUAL_SPACING } from "./into-parts";
import { NoCut } from "./no-cut";
import { Length, Three } from "./typed-lengths";

const AXES = ["x", "y", "z"] as const;
/** Of a side, mm. */
const LEAST = 0.001;

/** A block or cylinder that parts what lies in it from the rest: where it is, and how large. */
export function SolidBar(props: {
  shape: CutBySolid;
  /** Null when nothing can be run now. */
  onCut: ((given: Record<string, unknown>) => void) | null;
}) {
  const { shape, onCut } = props;
  const cutter = useHand((hand) => hand.cutter);
  const { setCutter } = useHand.getState();
  const [spacing, setSpacing] = useState(String(USUAL_SPACING));
  const apart = Number(spacing);
  if (!cutter) return null;
  const change = (part: Partial<Cutter>) => setCutter({ ...cutter, ...part });
  const lengths = shape === "block" ? cutter.sides : [cutter.across, cutter.height];
  const can =
    onCut !== null && apart > 0 && apart <= 1000 && lengths.every((mm) => mm > 0 && mm < 1e5);
  return (
    <form
      aria-label={`With a ${shape}`}
      className="space-y-1.5"
      onSubmit={(event) => {
        event.preventDefault();
        if (can) onCut({ ...cutOutBy(shape, cutter), spacing: apart });
      }}
    >
      <Row>
        <Three
          says="middle at"
          label="Middle"
          values={cutter.at}
          onChange={(at) => change({ at })}
        />
        <span className="text-ink-2">mm, or click where it is to be</span>
        <NoCut className="ml-auto" />
      </Row>
      <Row>
        {shape === "block" ? (
          <Three
            says="sides"
            label="Side"
            least={LEAST}
            values={cutter.sides}
            onChange={(sides) => change({ sides })}
          />
        ) : (
          <>
            <Length
              says="across"
              label="Across"
              least={LEAST}
              value={cutter.across}
              onChange={(across) => change({ across })}
            />
            <Length
              says="long"
              label="Long"
              least={LEAST}
              value={cutter.height}
              onChange={(height) => change({ height })}
            />
            <label className="flex items-center gap-1.5">
              along
              <select
                aria-label="Along"
                className="rounded border border-slate bg-sheet px-2 py-1"
                value={cutter.axis}
                onChange={(event) => change({ axis: event.target.value as Cutter["axis"] })}
              >
                {AXES.map((axis) => (
                  <option key={axis}>{axis}</option>
                ))}
              </select>
            </label>
          </>
        )}
        <span className="text-ink-2">mm</span>
        <Spacing value={spacing} onChange={setSpacing} />
        <Button type="submit" look="primary" className="ml-auto !py-1" disabled={!can}>
          Cut it out
        </Button>
      </Row>
    </form>
  );
}

/** Three lengths, along x, y and z. */
