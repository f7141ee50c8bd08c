import { Slider } from "radix-ui";
import { type ReactNode, useEffect, useState } from "react";
import type { Operation } from "../api/client";
import { Button } from "../ui/button";
import { inputLook } from "../ui/field";
import { EYE } from "../viewer/eye";
import { Choices, Row } from "./bar";
import { cutByDrawing, cutterIn, cutThrough, isDrawn, isSolid, moved, rangeOf } from "./cut";
import type { Ground } from "./ground";
import { type CutBy, useHand } from "./hand";
import { IntoParts } from "./into-parts";
import { LineBar } from "./line-bar";
import { NoCut } from "./no-cut";
import { SolidBar } from "./solid-bar";

const WAYS: readonly { value: CutBy; says: string }[] = [
  { value: "x", says: "across x" },
  { value: "y", says: "across y" },
  { value: "z", says: "across z" },
  { value: "view", says: "facing me" },
  { value: "picks", says: "three picks" },
  { value: "line", says: "a line" },
  { value: "block", says: "a block" },
  { value: "cylinder", says: "a cylinder" },
];

const HATCHES = [
  { says: "material", look: "repeating-linear-gradient(135deg,#fffdf7 0 4px,#7c8183 4px 5px)" },
  {
    says: "pieces overlap",
    look: "repeating-linear-gradient(45deg,#9c3d2266 0 1px,transparent 1px 5px),repeating-linear-gradient(135deg,#e6c2b3 0 4px,#9c3d22 4px 5px)",
  },
  {
    says: "inside out",
    look: "radial-gradient(circle,#7c5c0c 1.4px,transparent 1.6px) 0 0/5px 5px,#decfa3",
  },
] as const;

type Props = {
  ground: Ground;
  operations: readonly Operation[];
  /** Of the material's sheet, mm. */
  clearance: number | undefined;
  /** Runs an operation and lets go of the cut; null when nothing can be run now. */
  onRun: ((operation: string, given: Record<string, unknown>) => void) | null;
};

/** The section plane: which way it looks, where it stands, and what its hatches mean. */
export function CutBar({ ground, operations, clearance, onRun }: Props) {
  const cut = useHand((hand) => hand.cut);
  const picks = useHand((hand) => hand.cutPicks.length);
  const [parting, setParting] = useState(false);
  const operation = operations.find((one) => one.name === "cut");
  const { setCut, setCutPicks, setCutter, setJointSpots } = useHand.getState();
  useEffect(() => {
    // whoever takes the cut wants to look inside
    if (!useHand.getState().cut) setCut(cutThrough(ground.skin, "y"));
    // eslint-disable-next-line react-hooks/exhaustive-deps -- once, when it is taken
  }, []);
  const choose = (by: CutBy) => {
    setCutPicks([]);
    setJointSpots(null);
    if (isDrawn(by)) {
      setCut(cutByDrawing(ground.skin, by));
      if (by !== "line" && !useHand.getState().cutter) setCutter(cutterIn(ground.skin));
    } else if (by === "picks") {
      setCut({ ...(cut && !isDrawn(cut.by) ? cut : cutThrough(ground.skin, "y")), by });
    } else {
      setCut({ ...cutThrough(ground.skin, by, EYE.camera ?? undefined), both: cut?.both ?? false });
    }
  };
  return (
    <>
      <Row>
        <Choices label="Which way it cuts" value={cut?.by ?? null} of={WAYS} onChange={choose} />
      </Row>
      {cut?.by === "line" && <LineBar onCut={onRun && ((given) => onRun("cut-along", given))} />}
      {cut && isSolid(cut.by) && (
        <SolidBar
          key={cut.by}
          shape={cut.by}
          onCut={onRun && ((given) => onRun("cut-out", given))}
        />
      )}
      {cut?.by === "picks" && picks < 3 && (
        <p role="status" className="text-ink-2">
          Pick {["three places", "two more", "one more"][picks]} that it goes through.
        </p>
      )}
      {cut && !isDrawn(cut.by) && (
        <>
          <Place ground={ground}>
            <Button
              className="!px-2 !py-1"
              aria-expanded={parting}
              title="Closed parts with flat faces, whose volumes add up"
              disabled={!onRun}
              onClick={() => {
                setParting(!parting);
                setJointSpots(null);
              }}
            >
              Into parts…
            </Button>
          </Place>
          <Row>
            <Button
              className="!py-1"
              onClick={() =>
                setCut({
                  ...cut,
                  plane: {
                    normal: cut.plane.normal.map((x) => -x) as [number, number, number],
                    offset: -cut.plane.offset,
                  },
                })
              }
            >
              Keep the other side
            </Button>
            <label className="flex items-center gap-1.5">
              <input
                type="checkbox"
                checked={cut.both}
                onChange={(event) => setCut({ ...cut, both: event.target.checked })}
              />
              both sides
            </label>
            <ul aria-label="Hatches" className="flex gap-3 text-small text-ink-2">
              {HATCHES.map(({ says, look }) => (
                <li key={says} className="flex items-center gap-1">
                  <span
                    aria-hidden="true"
                    className="inline-block h-3 w-5 border border-rule"
                    style={{ background: look }}
                  />
                  {says}
                </li>
              ))}
            </ul>
            <NoCut className="ml-auto" />
          </Row>
          {parting && operation && (
            <IntoParts
              operation={operation}
              clearance={clearance}
              onCut={onRun && ((given) => onRun("cut", given))}
            />
          )}
        </>
      )}
    </>
  );
}

/** Where the plane stands: dragged on the model, slid or typed. */
function Place({ ground, children }: { ground: Ground; children: ReactNode }) {
  const cut = useHand((hand) => hand.cut);
  const setCut = useHand((hand) => hand.setCut);
  if (!cut) return null;
  const [low, high] = rangeOf(ground.skin, cut.plane.normal);
  // along an axis it is told as the model's own coordinate
  const turned = Math.min(...cut.plane.normal) < -0.9999;
  const told = (turned ? -1 : 1) * cut.plane.offset;
  const step = Math.max((high - low) / 500, 1e-4);
  const go = (offset: number) => {
    if (Number.isFinite(offset)) setCut(moved(cut, Math.min(high, Math.max(low, offset))));
  };
  return (
    <Row>
      <span className="text-ink-2">at</span>
      <input
        type="number"
        step={Number(step.toPrecision(1))}
        aria-label="Where the cut stands, mm"
        className={`${inputLook} !w-24 !py-1`}
        value={Number(told.toFixed(3))}
        onChange={(event) => go((turned ? -1 : 1) * Number(event.target.value))}
      />
      <span>mm</span>
      <Slider.Root
        className="relative flex h-5 min-w-40 flex-1 touch-none items-center"
        min={low}
        max={high}
        step={step}
        value={[cut.plane.offset]}
        onValueChange={([value]) => go(value!)}
      >
        <Slider.Track className="relative h-1 flex-1 bg-rule" />
        <Slider.Thumb
          aria-label="The cut, along its direction"
          className="block h-4 w-2.5 rounded-sm border border-chalk bg-blue"
        />
      </Slider.Root>
      {children}
    </Row>
  );
}
