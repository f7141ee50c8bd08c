import { useCallback, useEffect, useMemo, useRef } from "react";
import { length } from "../ui/format";
import type { LoadedSkin } from "../viewer/load-skin";
import type { DrawnMeasure } from "../viewer/measure-lines";
import type { Grip, Hit, PointerAt } from "../viewer/picking";
import type { Reference } from "../viewer/reference-thing";
import type { Sight } from "../viewer/shells";
import { EMPTY_HANDED, type InHand } from "../viewer/viewer";
import { carrying } from "./carry";
import { choose } from "./choose";
import { hideCursor } from "./cursor";
import { cut, isDrawn, isSolid, outlineOf } from "./cut";
import type { Ground, Tool } from "./ground";
import { type ToolName, useHand } from "./hand";
import type { KeptMeasure } from "../api/client";
import type { Measured } from "./measure";
import { measuredBy, rule } from "./rule";
import { useClip } from "./use-clip";
import { useNear } from "./use-near";

const TOOLS: Partial<Record<ToolName, Tool>> = { rule, cut, choose, carry: carrying };

/** What is measured with the tool in hand, or why nothing is. */
export type Found = Measured | string | null;

export type HandInView = {
  ground: Ground | null;
  inHand: InHand;
  /** What a click does with the tool in hand; false where it has none of its own. */
  pick: (hit: Hit | null, at: PointerAt) => boolean;
  found: Found;
};

type Given = {
  skin: LoadedSkin | undefined;
  revision: number | null;
  sight: Sight;
  nameOf: (shell: number) => string;
  kept: readonly KeptMeasure[];
  /** Sides of the machine that is looked at, mm. */
  machine: readonly [number, number, number] | null;
};

export const valueText = (kind: string, value: number) =>
  kind === "angle"
    ? `${value.toFixed(1)}°`
    : `${kind === "round" ? "⌀ " : ""}${value >= 0.1 ? `${value.toFixed(2)} mm` : length(value)}`;

/** The tool in hand over the model: what it does with the pointer, and what it draws. */
export function useInHandOver(given: Given): HandInView {
  const { skin, revision, sight, nameOf, kept } = given;
  const name = useHand((hand) => hand.tool);
  const tool = TOOLS[name];
  const needsFaces = name === "rule" || name === "choose" || name === "cut";
  const near = useNear(skin, needsFaces);
  const clip = useClip(skin);
  const ghost = useHand((hand) => hand.cut?.both ?? false);
  const picks = useHand((hand) => (hand.tool === "cut" ? hand.cutPicks : hand.rule.picks));
  const ruleKind = useHand((hand) => hand.rule.kind);
  const shownKey = useHand((hand) => hand.rule.shown);
  const choice = useHand((hand) =>
    hand.choice && hand.choice.revision === revision ? hand.choice.faces : null,
  );
  const ground = useMemo<Ground | null>(
    () => (skin && revision !== null ? { skin, revision, near, sight, clip, nameOf } : null),
    [skin, revision, near, sight, clip, nameOf],
  );
  const latest = useRef(ground);
  useEffect(() => {
    latest.current = ground;
  });
  const tree = useRef<Hit["tree"] | null>(null);
  useEffect(() => {
    void skin?.tree.then((built) => (tree.current = built));
  }, [skin]);
  // what was pointed at with one tool means nothing to the next
  useEffect(() => hideCursor, [name, skin]);
  const grip = useMemo<Grip | null>(
    () =>
      tool?.press
        ? {
            press: (hit, at, event) =>
              latest.current !== null && tool.press!(hit, at, latest.current, event),
            drag: (hit, at) => latest.current && tool.drag?.(hit, at, latest.current),
            release: (at) => latest.current && tool.release?.(at, latest.current),
          }
        : null,
    [tool],
  );
  const hover = useCallback(
    (hit: Hit | null, at: PointerAt | null) =>
      latest.current && tool?.hover ? tool.hover(hit, at, latest.current) : "",
    [tool],
  );
  const pick = useCallback(
    (hit: Hit | null, at: PointerAt) => {
      if (!tool || !latest.current) return false;
      tool.pick?.(hit, at, latest.current);
      return true;
    },
    [tool],
  );
  const carry = useHand((hand) => hand.carry);
  const spots = useHand((hand) => (hand.tool === "cut" ? hand.jointSpots : null));
  const drawn = useHand((hand) =>
    hand.tool === "cut" && hand.cut && isDrawn(hand.cut.by) ? hand.cut.by : null,
  );
  const cutter = useHand((hand) => hand.cutter);
  const measuring = name === "rule";
  const found = useMemo<Found>(
    () => (ground && measuring ? measuredBy(picks, ground, tree.current) : null),
    // the kind decides what the picks come to
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [ground, picks, measuring, ruleKind],
  );
  const measures = useMemo<DrawnMeasure[]>(() => {
    if (drawn && isSolid(drawn) && cutter) {
      return outlineOf(drawn, cutter).map((line, i) => ({
        key: `outline ${i}`,
        line,
        at: cutter.at,
        text: "",
      }));
    }
    if (drawn === "line" && picks.length > 1) {
      const line = picks.map((one) => one.at.toArray());
      return [{ key: "line", line, at: line.at(-1)!, text: "" }];
    }
    if (!measuring) return [];
    const measures: DrawnMeasure[] = kept.map((one) => ({
      key: `kept ${one.id}`,
      line: one.line,
      at: middleOf(one.line),
      text: `${one.name ? `${one.name} ` : ""}${valueText(one.kind, one.value)}`,
    }));
    const one = typeof found === "string" ? null : found;
    if (one) {
      measures.push({
        key: "new",
        line: one.line,
        at: one.at,
        text: valueText(one.kind, one.value),
      });
    }
    return shownKey === null ? measures : measures.filter(({ key }) => key === `kept ${shownKey}`);
  }, [measuring, drawn, cutter, picks, kept, found, shownKey]);
  const kind = useHand((hand) => hand.reference.kind);
  const sizes = useHand((hand) => hand.reference.size);
  const { machine } = given;
  const reference = useMemo<Reference | null>(() => {
    if (kind === "none") return null;
    if (kind === "machine") return machine && { kind, sides: machine };
    return { kind, size: sizes[kind] };
  }, [kind, sizes, machine]);
  const points = useMemo(
    () => spots?.map((at) => [...at]) ?? picks.map((one) => one.at.toArray()),
    [picks, spots],
  );
  const inHand = useMemo<InHand>(
    () => ({
      ...EMPTY_HANDED,
      grip,
      taken: tool?.taken ?? false,
      hover: tool?.hover ? hover : null,
      choice,
      measures,
      picks: measuring || name === "cut" ? points : EMPTY_HANDED.picks,
      reference,
      clip,
      ghost,
      carried: carry,
    }),
    [grip, tool, hover, choice, measures, points, measuring, name, reference, clip, ghost, carry],
  );
  return { ground, inHand, pick, found };
}

const middleOf = (line: readonly (readonly number[])[]): number[] =>
  [0, 1, 2].map((k) => line.reduce((sum, point) => sum + point[k]!, 0) / line.length);
