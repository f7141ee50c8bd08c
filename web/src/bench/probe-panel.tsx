import { useMemo, useState } from "react";
import { Button } from "../ui/button";
import type { Probe } from "../viewer/probe";
import { alongOf, sectionAt } from "../viewer/section";
import type { Skin } from "../viewer/skin";
import { DEEP } from "../viewer/soundings";

const SIDE = 168;
const LEAST_REACH = 0.5;

type Props = { skin: Skin; probe: Probe; onClose: () => void };

/** The probed point in a cut through it: the ball that fits, and the ray to the other side. */
export function ProbePanel({ skin, probe, onClose }: Props) {
  const [turned, setTurned] = useState(false);
  const { ball, ray, most } = probe;
  const reach =
    1.6 * Math.max(LEAST_REACH, Math.min(most, Math.max(ball ?? 0, ray === DEEP ? 0 : ray)));
  const cut = useMemo(() => {
    const level = alongOf(probe.normal);
    const u = turned ? level.clone().cross(probe.normal).normalize() : level;
    const at = probe.at.clone().sub(skin.middle);
    return sectionAt(probe.tree, at, probe.normal, u, reach);
  }, [skin, probe, turned, reach]);
  const scale = SIDE / (2 * reach);
  // the point stands above the middle, since what matters lies below it
  const x = (across: number) => SIDE / 2 + across * scale;
  const y = (up: number) => SIDE / 4 - up * scale;
  const told = (mm: number) => (mm === DEEP ? `over ${most.toFixed(1)} mm` : `${mm.toFixed(2)} mm`);
  const path = Array.from({ length: cut.segments.length / 4 }, (_, i) => {
    const [a, b, c, d] = cut.segments.subarray(4 * i, 4 * i + 4);
    return `M${x(a!).toFixed(2)} ${y(b!).toFixed(2)}L${x(c!).toFixed(2)} ${y(d!).toFixed(2)}`;
  }).join("");
  return (
    <section
      aria-label="Probe"
      className="absolute right-3 top-12 w-[194px] rounded bg-paper/95 p-3 shadow"
    >
      <svg
        width={SIDE}
        height={SIDE}
        role="img"
        aria-label="Section through the probed point"
        className="border border-rule bg-sheet"
      >
        {ball !== null && ball !== DEEP && (
          <circle
            cx={x(0)}
            cy={y(-ball / 2)}
            r={(ball / 2) * scale}
            fill="#b9ccc4"
            stroke="#457f9f"
          />
        )}
        <path d={path} fill="none" stroke="#20282b" strokeWidth={1.4} />
        <line
          x1={x(0)}
          y1={y(0)}
          x2={x(0)}
          y2={y(-Math.min(ray, 4 * reach))}
          stroke="#23476b"
          strokeDasharray="4 3"
        />
        <circle cx={x(0)} cy={y(0)} r={3} fill="#23476b" />
      </svg>
      <dl className="mt-2 grid grid-cols-[auto_1fr] gap-x-3">
        <dt className="text-ink-2">Ball</dt>
        <dd className="text-right font-[650]">{ball === null ? "not sounded" : told(ball)}</dd>
        <dt className="text-ink-2">Ray</dt>
        <dd className="text-right">{told(ray)}</dd>
      </dl>
      <div className="mt-2 flex justify-between">
        <Button look="quiet" aria-pressed={turned} onClick={() => setTurned(!turned)}>
          Cut the other way
        </Button>
        <Button look="quiet" onClick={onClose}>
          Close
        </Button>
      </div>
    </section>
  );
}
