import { Slider } from "radix-ui";
import { useMemo } from "react";
import type { Skin } from "../viewer/skin";
import { BANDS, DEPTHS, type Soundings, thinArea } from "../viewer/soundings";
import type { Revision } from "../api/client";

type Props = {
  skin: Skin;
  soundings: Soundings;
  sheet: NonNullable<Revision["sheet"]>;
  limit: number;
  onLimit: (limit: number) => void;
};

const LEAST = 0.1;
const STEP = 0.05;
const mm = (x: number) => x.toFixed(2);

/** The limits on walls that a sheet knows, thinnest first. */
export const limitsOf = (sheet: NonNullable<Revision["sheet"]>) =>
  [
    { title: "wall held", limit: sheet.wall_supported },
    { title: "wall free", limit: sheet.wall_free },
    { title: "wire held", limit: sheet.wire_supported },
    { title: "wire free", limit: sheet.wire_free },
  ].filter(({ limit }) => limit > 0);

/** The tints of the chart in millimetres, and the limit: the sheet's, or any other to try out. */
export function Legend({ skin, soundings, sheet, limit, onLimit }: Props) {
  const marks = limitsOf(sheet);
  const thin = useMemo(() => thinArea(skin, soundings, limit), [skin, soundings, limit]);
  const most = Math.max(soundings.most, LEAST + STEP);
  const share = (x: number) => `${((x - LEAST) / (most - LEAST)) * 100}%`;
  return (
    <section
      aria-label="Legend"
      className="pointer-events-auto mb-2 w-[430px] max-w-full rounded bg-paper/95 px-3 pb-2 pt-2.5 shadow"
    >
      <div className="flex">
        {DEPTHS.map((tint, i) => (
          <div key={tint} className="min-w-0 flex-1">
            <div
              className={`h-3 border-y border-ink/40 ${i === 1 ? "border-r-3 border-r-ink" : ""}`}
              style={{ background: tint }}
            />
            <div className="translate-x-1/2 text-center text-small">
              {i < BANDS.length && (
                <span className={i === 1 ? "font-[650]" : ""}>{mm(BANDS[i]! * limit)}</span>
              )}
            </div>
          </div>
        ))}
      </div>
      <div className="flex items-center gap-3">
        <span className="whitespace-nowrap">
          Thin below <b className="font-[650]">{mm(limit)} mm</b>
        </span>
        <Slider.Root
          className="relative flex h-5 flex-1 touch-none items-center"
          min={LEAST}
          max={most}
          step={STEP}
          value={[limit]}
          onValueChange={([value]) => onLimit(value!)}
        >
          <Slider.Track className="relative h-1 flex-1 bg-rule">
            {marks.map(({ title, limit: at }) => (
              <span
                key={title}
                className="absolute -top-1 h-3 w-px bg-ink"
                style={{ left: share(at) }}
              />
            ))}
          </Slider.Track>
          <Slider.Thumb
            aria-label="Thin below, mm"
            className="block h-4 w-2.5 rounded-sm border border-chalk bg-blue"
          />
        </Slider.Root>
        <output className="w-[104px] whitespace-nowrap text-right text-ink-2">
          {thin ? `${thin.toFixed(1)} mm² of skin` : "no skin thinner"}
        </output>
      </div>
      <div className="flex flex-wrap gap-x-3 text-small">
        {marks.map(({ title, limit: at }) => (
          <button
            key={title}
            type="button"
            className="text-blue underline-offset-2 hover:underline"
            onClick={() => onLimit(at)}
          >
            {title} {mm(at)}
          </button>
        ))}
      </div>
    </section>
  );
}
