import type { Material, Operation } from "../api/client";
import type { EarlierState } from "../ui/operation-fields";
import { CarryBar } from "./carry-bar";
import { ChooseBar } from "./choose-bar";
import { CutBar } from "./cut-bar";
import { useHand } from "./hand";
import type { useKeptMeasures } from "./kept-measures";
import { ReferenceBar } from "./reference-bar";
import { RuleBar } from "./rule-bar";
import type { HandInView } from "./use-in-hand";

type Props = {
  hand: HandInView;
  kept: ReturnType<typeof useKeptMeasures>;
  work: {
    operations: Operation[];
    earlier: readonly EarlierState[];
    ordered: Material | undefined;
    canWork: boolean;
    mayKeep: boolean;
    run: (operation: Operation, places: null, given: Record<string, unknown>) => void;
  };
  machine: { name: string; sides: readonly [number, number, number] } | null;
  finding: { number: number; faces: Uint32Array } | null;
  /** Number of the piece that a shell is of, or lies in; null where pieces are not known. */
  pieceOf: ((shell: number) => number) | null;
};

/** What the tool in hand takes and has found; nothing while nothing is in hand. */
export function HandBar({ hand, kept, work, machine, finding, pieceOf }: Props) {
  const tool = useHand((held) => held.tool);
  const { operations, canWork, run } = work;
  const scale = operations.find((one) => one.name === "scale");
  const lay = operations.find((one) => one.name === "lay");
  if (tool === "rule") {
    return (
      <RuleBar
        hand={hand}
        kept={kept}
        onScale={canWork && scale ? (factor) => run(scale, null, { factor }) : null}
        mayKeep={work.mayKeep}
        onLay={
          canWork && lay && pieceOf
            ? (first, second) => {
                const given = {
                  at: first.at.toArray(),
                  facing: first.normal.toArray(),
                  on: second.at.toArray(),
                  against: second.normal.toArray(),
                  pieces: [pieceOf(first.shell)],
                };
                run(lay, null, given);
                // what came of it is looked at with nothing in hand
                useHand.getState().take("turn");
              }
            : null
        }
      />
    );
  }
  if (tool === "carry") {
    const move = operations.find((one) => one.name === "move");
    return (
      <CarryBar
        onMove={
          canWork && move
            ? (pieces, by) => {
                run(move, null, { pieces: [...pieces], by: [...by] });
                useHand.getState().take("turn");
              }
            : null
        }
      />
    );
  }
  if (tool === "reference") return <ReferenceBar machine={machine} />;
  if (!hand.ground) return null;
  if (tool === "cut") {
    return (
      <CutBar
        ground={hand.ground}
        operations={operations}
        clearance={work.ordered?.rules?.clearance}
        onRun={
          canWork
            ? (name, given) => {
                run(
                  operations.find((one) => one.name === name)!,
                  null,
                  given,
                );
                // what was to be cut is: the parts are looked at whole
                const { setCut, take } = useHand.getState();
                setCut(null);
                take("turn");
              }
            : null
        }
      />
    );
  }
  if (tool === "choose") {
    return (
      <ChooseBar
        ground={hand.ground}
        operations={operations}
        earlier={work.earlier}
        onRun={canWork ? (operation, given) => run(operation, null, given) : null}
        finding={finding}
      />
    );
  }
  return null;
}
