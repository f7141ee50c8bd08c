import { useFrame, useThree } from "@react-three/fiber";
import { type RefObject, useMemo } from "react";
import * as THREE from "three";
import type { Skin } from "./skin";

export type Label = {
  number: number;
  at: readonly number[];
  /** Written beside the number: the depth of a thin place. */
  depth?: string;
};

const EDGE = 30;
const STEP = 30;
const TOP = 52;
/** Room for the scale in the lower left, pixels. */
const SCALE = 24;

export type Spot = { x: number; y: number; number: number; row: number };

/** Whether segments a-b and c-d cross. */
export function cross(a: Spot, ay: number, b: Spot, by: number, edge: number): boolean {
  const side = (px: number, py: number, qx: number, qy: number, rx: number, ry: number) =>
    Math.sign((qx - px) * (ry - py) - (qy - py) * (rx - px));
  const s1 = side(a.x, a.y, edge, ay, b.x, b.y);
  const s2 = side(a.x, a.y, edge, ay, edge, by);
  const s3 = side(b.x, b.y, edge, by, a.x, a.y);
  const s4 = side(b.x, b.y, edge, by, edge, ay);
  return s1 !== s2 && s3 !== s4;
}

/** Rows in a margin so that the leader lines neither touch labels nor cross one another. */
export function settle(spots: Spot[], edge: number, height: number): void {
  spots.sort((a, b) => a.y - b.y);
  const room = Math.min(STEP, (height - 2 * TOP) / Math.max(1, spots.length));
  const rows: number[] = [];
  for (const spot of spots) rows.push(Math.max((rows.at(-1) ?? TOP - room) + room, spot.y));
  let limit = height - TOP;
  for (let i = rows.length - 1; i >= 0; i--) {
    rows[i] = Math.max(TOP, Math.min(rows[i]!, limit));
    limit = rows[i]! - room;
  }
  // Uncrossing two lines makes them shorter together, so this comes to an end.
  let changed = true;
  for (let pass = 0; changed && pass < spots.length ** 2; pass++) {
    changed = false;
    for (let i = 0; i < spots.length; i++) {
      for (let j = i + 1; j < spots.length; j++) {
        if (!cross(spots[i]!, rows[i]!, spots[j]!, rows[j]!, edge)) continue;
        [spots[i], spots[j]] = [spots[j]!, spots[i]!];
        changed = true;
      }
    }
  }
  spots.forEach((spot, i) => (spot.row = rows[i]!));
}

type Props = { skin: Skin; labels: readonly Label[]; layer: RefObject<HTMLDivElement | null> };

/**
 * Keeps the numbers in the margins and their leader lines in step with the camera. Lives in the
 * canvas to see each frame; draws into a plain layer over it.
 */
export function LabelDriver({ skin, labels, layer }: Props) {
  const { camera, size } = useThree();
  const points = useMemo(
    () => labels.map((label) => new THREE.Vector3(...label.at).sub(skin.middle)),
    [labels, skin],
  );
  useFrame(() => {
    const box = layer.current;
    if (!box) return;
    camera.updateMatrixWorld();
    const left: Spot[] = [];
    const right: Spot[] = [];
    points.forEach((point, i) => {
      const p = point.clone().project(camera);
      const spot = {
        x: ((p.x + 1) / 2) * size.width,
        y: ((1 - p.y) / 2) * size.height,
        number: labels[i]!.number,
        row: 0,
      };
      (spot.x < size.width / 2 ? left : right).push(spot);
    });
    // numbers stand clear of what stands at the foot of the view, and of the line at its head
    const foot = parseFloat(box.closest("main")?.style.getPropertyValue("--foot") ?? "") || 0;
    settle(left, EDGE, size.height - foot - SCALE);
    settle(right, size.width - EDGE, size.height - foot);
    const place = (spot: Spot, edge: number) => {
      const tag = box.querySelector<HTMLElement>(`[data-label="${spot.number}"]`);
      const line = box.querySelector<SVGLineElement>(`line[data-line="${spot.number}"]`);
      const dot = box.querySelector<SVGCircleElement>(`circle[data-dot="${spot.number}"]`);
      if (!tag || !line || !dot) return;
      tag.style.transform = `translate(${edge}px, ${spot.row}px) translate(-50%, -50%)`;
      line.setAttribute("x1", String(edge));
      line.setAttribute("y1", String(spot.row));
      line.setAttribute("x2", String(spot.x));
      line.setAttribute("y2", String(spot.y));
      dot.setAttribute("cx", String(spot.x));
      dot.setAttribute("cy", String(spot.y));
    };
    for (const spot of left) place(spot, EDGE);
    for (const spot of right) place(spot, size.width - EDGE);
  });
  return null;
}

/** The layer that `LabelDriver` moves about. */
export function LabelLayer(props: {
  layer: RefObject<HTMLDivElement | null>;
  labels: readonly Label[];
  chosen: number | null;
  onChoose: (number: number) => void;
}) {
  return (
    <div ref={props.layer} className="pointer-events-none absolute inset-0 overflow-hidden">
      <svg className="absolute inset-0 h-full w-full" aria-hidden="true">
        {props.labels.map(({ number }) => (
          <g key={number} stroke="#f2efe6" fill="#f2efe6">
            <line data-line={number} strokeWidth={number === props.chosen ? 2 : 1} />
            <circle data-dot={number} r={number === props.chosen ? 4 : 2.5} stroke="none" />
          </g>
        ))}
      </svg>
      {props.labels.map(({ number, depth }) => (
        <button
          key={number}
          type="button"
          tabIndex={-1}
          data-label={number}
          aria-label={`Finding ${number}${depth ? ` ${depth}` : ""}`}
          onClick={() => props.onChoose(number)}
          className={`pointer-events-auto absolute left-0 top-0 min-w-6 rounded-sm px-1.5 py-0.5 text-center font-[650] ${
            number === props.chosen
              ? "bg-blue text-chalk outline outline-chalk"
              : "bg-chalk text-ink"
          }`}
        >
          {number}
          {depth && (
            <>
              {" "}
              <span className="ml-1 font-normal">{depth}</span>
            </>
          )}
        </button>
      ))}
    </div>
  );
}
