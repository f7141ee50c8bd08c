import { useFrame, useThree } from "@react-three/fiber";
import { type RefObject, useEffect, useMemo } from "react";
import * as THREE from "three";
import { LineMaterial } from "three/examples/jsm/lines/LineMaterial.js";
import { LineSegments2 } from "three/examples/jsm/lines/LineSegments2.js";
import { LineSegmentsGeometry } from "three/examples/jsm/lines/LineSegmentsGeometry.js";
import type { Skin } from "./skin";

/** A measure as it is drawn, mm: its line, and where its number stands. */
export type DrawnMeasure = {
  key: string;
  line: readonly (readonly number[])[];
  at: readonly number[];
  text: string;
};

/** Lines of measures over the model, seen through it. */
export function MeasureLines(props: { skin: Skin; measures: readonly DrawnMeasure[] }) {
  const { skin, measures } = props;
  const invalidate = useThree((state) => state.invalidate);
  const object = useMemo(() => {
    const points: number[] = [];
    for (const { line } of measures) {
      for (let i = 0; i + 1 < line.length; i++) {
        for (const point of [line[i]!, line[i + 1]!]) {
          points.push(...new THREE.Vector3(...point).sub(skin.middle).toArray());
        }
      }
    }
    const geometry = new LineSegmentsGeometry();
    if (points.length) geometry.setPositions(points);
    const made = new LineSegments2(
      geometry,
      new LineMaterial({
        color: "#f2efe6",
        linewidth: 2,
        depthTest: false,
        depthWrite: false,
        transparent: true,
      }),
    );
    made.frustumCulled = false;
    made.renderOrder = 6;
    made.visible = points.length > 0;
    return made;
  }, [skin, measures]);
  useEffect(() => {
    invalidate();
    return () => {
      object.geometry.dispose();
      object.material.dispose();
      invalidate();
    };
  }, [object, invalidate]);
  return <primitive object={object} />;
}

/** Keeps the numbers of measures, and what the pointer would take, in step with the camera. */
export function MeasureDriver(props: { skin: Skin; layer: RefObject<HTMLDivElement | null> }) {
  const { skin, layer } = props;
  const { camera, size } = useThree();
  const point = useMemo(() => new THREE.Vector3(), []);
  useFrame(() => {
    const box = layer.current;
    if (!box) return;
    for (const tag of box.children as HTMLCollectionOf<HTMLElement>) {
      const [a, b, c] = tag.dataset.at!.split(" ").map(Number);
      point.set(a!, b!, c).sub(skin.middle);
      point.project(camera);
      const [x, y] = [((point.x + 1) / 2) * size.width, ((1 - point.y) / 2) * size.height];
      tag.style.transform = `translate(${x}px, ${y}px) translate(-50%, ${tag.dataset.up})`;
      tag.style.visibility = point.z > 1 ? "hidden" : "";
    }
  });
  return null;
}

/** The layer that `MeasureDriver` moves about. */
export function MeasureLayer(props: {
  layer: RefObject<HTMLDivElement | null>;
  measures: readonly DrawnMeasure[];
  /** Picks so far, and the place that a click would take. */
  picks: readonly (readonly number[])[];
}) {
  return (
    <div ref={props.layer} className="pointer-events-none absolute inset-0 overflow-hidden">
      {props.picks.map((at, i) => (
        <span
          key={i}
          data-at={at.join(" ")}
          data-up="-50%"
          className="absolute left-0 top-0 size-2.5 rounded-full border-2 border-chalk bg-blue"
        />
      ))}
      {props.measures
        .filter(({ text }) => text)
        .map(({ key, at, text }) => (
          <span
            key={key}
            data-at={at.join(" ")}
            // over its line, so that it does not cover it
            data-up="-140%"
            className="absolute left-0 top-0 whitespace-nowrap rounded-sm bg-chalk px-1.5 font-[650] text-ink"
          >
            {text}
          </span>
        ))}
    </div>
  );
}
