import { useState } from "react";
import { Button } from "../ui/button";
import { plural } from "../ui/format";
import { Row } from "./bar";
import { useHand } from "./hand";
import { NoCut } from "./no-cut";
import { Spacing, USUAL_SPACING } from "./into-parts";

/** A line drawn over the model, to be cut along, straight through the way it was looked at. */
export function LineBar({
  onCut,
}: {
  /** Null when nothing can be run now. */
  onCut: ((given: Record<string, unknown>) => void) | null;
}) {
  const picks = useHand((hand) => hand.cutPicks);
  const way = useHand((hand) => hand.lineWay);
  const { setCutPicks } = useHand.getState();
  const [spacing, setSpacing] = useState(String(USUAL_SPACING));
  const [closed, setClosed] = useState(false);
  const apart = Number(spacing);
  const enough = picks.length >= (closed ? 3 : 2);
  const can = onCut !== null && enough && apart > 0 && apart <= 1000 && way !== null;
  const go = () => {
    const line = picks.map((one) => one.at.toArray());
    if (closed) line.push(line[0]!);
    onCut?.({ line, direction: [...way!], spacing: apart });
  };
  return (
    <>
      <p role="status" className="text-ink-2">
        {picks.length
          ? `${plural(picks.length, "corner")}; ${
              closed ? "what lies within is cut out." : "the line goes on straight at both ends."
            }`
          : "Look the way it is to be cut, and pick the line's corners on the model."}
      </p>
      <Row>
        <label className="flex items-center gap-1.5">
          <input
            type="checkbox"
            checked={closed}
            onChange={(event) => setClosed(event.target.checked)}
          />
          closed
        </label>
        <Button
          look="quiet"
          className="!py-1"
          disabled={!picks.length}
          onClick={() => setCutPicks(picks.slice(0, -1))}
        >
          Take the last back
        </Button>
        <Spacing value={spacing} onChange={setSpacing} />
        <Button look="primary" className="ml-auto !py-1" disabled={!can} onClick={go}>
          Cut along it
        </Button>
        <NoCut />
      </Row>
    </>
  );
}
