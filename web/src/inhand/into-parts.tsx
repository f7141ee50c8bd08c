import { useState } from "react";
import type { Operation } from "../api/client";
import { Button } from "../ui/button";
import { inputLook } from "../ui/field";
import { plural } from "../ui/format";
import { useGiven } from "../ui/operation-fields";
import { Row } from "./bar";
import { useHand } from "./hand";

/** What joins two parts, as people call it. */
const JOINTS = [
  { value: "none", says: "nothing" },
  { value: "round", says: "round pegs" },
  { value: "square", says: "square pegs" },
  { value: "keyed", says: "keyed pegs" },
  { value: "magnet", says: "magnets" },
  { value: "screw", says: "screws" },
  { value: "dovetail", says: "a dovetail" },
] as const;
type Joint = (typeof JOINTS)[number]["value"];

/** How far the parts are set off, mm, unless it is told. */
export const USUAL_SPACING = 1;
/** Half the width of a joint placed by hand, mm, until its width is told. */
const USUAL_RADIUS = 2;

type Props = {
  operation: Operation;
  /** Of the material's sheet, mm; none where it asks for none. */
  clearance: number | undefined;
  /** Null when nothing can be run now. */
  onCut: ((given: Record<string, unknown>) => void) | null;
};

/** Makes parts of the model along the plane, with joints between them if wanted. */
export function IntoParts({ operation, clearance, onCut }: Props) {
  const plane = useHand((hand) => hand.cut?.plane);
  const [joint, setJoint] = useState<Joint>("none");
  const [spacing, setSpacing] = useState(String(USUAL_SPACING));
  const spots = useHand((hand) => hand.jointSpots);
  const { setJointSpots } = useHand.getState();
  const pocket = joint === "magnet" || joint === "screw";
  const given = useGiven(operation, {
    without: [
      ...["point", "normal", "part", "spacing", "joint"],
      ...(pocket || joint === "dovetail" ? ["taper", "loose"] : []),
    ],
    usual: clearance ? { clearance } : {},
  });
  const apart = Number(spacing);
  // parts that touch would be one again in most formats
  const fits = apart > 0 && apart <= 1000;
  const can =
    onCut !== null && fits && (joint === "none" || (given.complete && spots?.length !== 0));
  if (!plane) return null;
  const go = () => {
    const { normal, offset } = plane;
    const radius = Number(given.values.width ?? 2 * USUAL_RADIUS) / 2;
    onCut?.({
      point: normal.map((x) => x * offset),
      normal: [...normal],
      spacing: apart,
      ...(joint === "none" ? {} : { joint, ...given.values }),
      ...(joint !== "none" && spots ? { spots: spots.map((at) => [...at, radius]) } : {}),
    });
  };
  return (
    <form
      aria-label="Into parts"
      className="space-y-1.5 border-t border-rule pt-2"
      onSubmit={(event) => {
        event.preventDefault();
        if (can) go();
      }}
    >
      <Row>
        <label className="flex items-center gap-1.5">
          <span className="text-ink-2">joined by</span>
          <select
            className="rounded border border-slate bg-sheet px-2 py-1"
            value={joint}
            onChange={(event) => {
              setJoint(event.target.value as Joint);
              if (event.target.value === "none") setJointSpots(null);
            }}
          >
            {JOINTS.map(({ value, says }) => (
              <option key={value} value={value}>
                {says}
              </option>
            ))}
          </select>
        </label>
        <Spacing value={spacing} onChange={setSpacing} />
        <Button type="submit" look="primary" className="ml-auto !py-1" disabled={!can}>
          Cut into parts
        </Button>
      </Row>
      {joint !== "none" && (
        <Row>
          {given.fields}
          <span className="text-ink-2" role="status">
            {placesText(joint, spots?.length ?? null)}
          </span>
          <Button
            className="!px-2 !py-0.5"
            onClick={() => setJointSpots(spots === null ? [] : null)}
          >
            {spots === null ? "Place them myself" : "Let them be proposed"}
          </Button>
          {spots !== null && spots.length > 0 && (
            <Button
              look="quiet"
              className="!py-0.5"
              onClick={() => setJointSpots(spots.slice(0, -1))}
            >
              Take the last back
            </Button>
          )}
        </Row>
      )}
    </form>
  );
}

/** Where the joints are to be; null where nobody has begun to place them. */
function placesText(joint: Joint, placed: number | null): string {
  if (placed === null) {
    return joint === "dovetail"
      ? "It goes all along the cut, in its middle."
      : "Number and places are proposed.";
  }
  if (placed === 0) return "Click on the cut where they are to be.";
  return `${plural(placed, "place")} picked on the cut.`;
}

/** How far parts are set off from one another. */
export function Spacing(props: { value: string; onChange: (value: string) => void }) {
  return (
    <span className="flex items-center gap-1.5">
      <input
        type="number"
        min={0}
        max={1000}
        step="any"
        aria-label="How far the parts are set off, mm"
        title="How far the parts are set off; those that touch would be one in most formats"
        className={`${inputLook} !w-14 !px-1.5 !py-1`}
        value={props.value}
        onChange={(event) => props.onChange(event.target.value)}
      />
      mm apart
    </span>
  );
}
