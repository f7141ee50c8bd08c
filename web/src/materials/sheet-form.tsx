import { useEffect, useState } from "react";
import type { Demand, Material, RuleSheet } from "../api/client";
import { Button } from "../ui/button";
import { Complaint, inputLook } from "../ui/field";
import { plural } from "../ui/format";

const GROUPS: readonly { title: string; names: readonly string[] }[] = [
  {
    title: "Walls and wires",
    names: ["wall_supported", "wall_free", "wire_supported", "wire_free"],
  },
  { title: "Detail and fit", names: ["engraved", "embossed", "clearance", "tolerance"] },
  { title: "Size", names: ["smallest", "largest"] },
  { title: "Hollows", names: ["must_drain", "drain_hole", "drain_holes"] },
  { title: "Weight and price", names: ["density_g_cm3", "price_per_cm3", "price_per_part"] },
];
const SIDES = ["x", "y", "z"];

/** What stands free needs no less than what is held. */
const HELD_AND_FREE = [
  ["wall_supported", "wall_free"],
  ["wire_supported", "wire_free"],
] as const;

type Typed = Record<string, string>;

/** The numbers of a sheet as they are typed; sides of the largest part by number. */
const typedOf = (rules: RuleSheet, demands: Demand[]): Typed => ({
  ...Object.fromEntries(demands.map(({ name }) => [name, String(rules[name as keyof RuleSheet])])),
  ...Object.fromEntries(rules.largest.map((side, i) => [`largest.${i}`, String(side)])),
});

type Props = {
  material: Material & { rules: RuleSheet };
  demands: Demand[];
  /** Null for those who may only look. */
  onSave: ((rules: RuleSheet, why: string) => void) | null;
  saving: boolean;
  problem: string | undefined;
  /** Items in hand that are judged by this sheet. */
  items: number;
  /** Told whether something was changed and not saved. */
  onUnsaved: (unsaved: boolean) => void;
};

/** One rule sheet, to read or to change. */
export function SheetForm(props: Props) {
  const { material, demands, onSave, saving, problem, items, onUnsaved } = props;
  const { rules } = material;
  const [typed, setTyped] = useState<Typed>(() => typedOf(rules, demands));
  const [drains, setDrains] = useState(rules.must_drain);
  const [why, setWhy] = useState("");
  const limits = (name: string): { least: number; most: number } =>
    demands.find((one) => one.name === name) ?? { least: 1, most: 10_000 };
  const isWrong = (name: string) => {
    const text = typed[name] ?? "";
    const { least, most } = limits(name);
    return text.trim() === "" || !(Number(text) >= least && Number(text) <= most);
  };
  const wrong = Object.keys(typed).filter(isWrong);
  const before = typedOf(rules, demands);
  const changed =
    drains !== rules.must_drain ||
    Object.keys(typed).some((name) => Number(typed[name]) !== Number(before[name]));
  useEffect(() => onUnsaved(changed), [changed, onUnsaved]);
  const contradicts = HELD_AND_FREE.find(
    ([held, free]) => Number(typed[held]) > Number(typed[free]),
  );
  const titleOf = (name: string) => demands.find((one) => one.name === name)?.title ?? name;
  const save = () =>
    onSave?.(
      {
        ...rules,
        ...Object.fromEntries(demands.map(({ name }) => [name, Number(typed[name])])),
        largest: SIDES.map((_, i) => Number(typed[`largest.${i}`])),
        must_drain: drains,
      },
      why.trim(),
    );
  const input = (name: string, label: string) => (
    <input
      type="number"
      step="any"
      aria-label={label}
      aria-invalid={isWrong(name)}
      readOnly={!onSave}
      min={limits(name).least}
      max={limits(name).most}
      className={`${inputLook} text-right ${onSave ? "" : "border-transparent bg-transparent"} ${
        isWrong(name) ? "border-rust" : ""
      }`}
      value={typed[name] ?? ""}
      onChange={(event) => setTyped({ ...typed, [name]: event.target.value })}
    />
  );
  return (
    <form
      className="flex min-h-0 flex-1 flex-col"
      onSubmit={(event) => {
        event.preventDefault();
        save();
      }}
    >
      <div className="grid min-h-0 flex-1 grid-cols-2 content-start gap-x-10 gap-y-6 overflow-auto px-6 py-5">
        {GROUPS.map(({ title, names }) => (
          <fieldset key={title} className="min-w-0">
            <legend className="mb-2 w-full border-b border-rule pb-1 font-[650]">{title}</legend>
            {names.map((name) => {
              if (name === "must_drain") {
                return (
                  <label key={name} className="flex items-center justify-between py-1.5">
                    <span>Hollows must drain</span>
                    <input
                      type="checkbox"
                      className="size-4 accent-blue"
                      disabled={!onSave}
                      checked={drains}
                      onChange={(event) => setDrains(event.target.checked)}
                    />
                  </label>
                );
              }
              if (name === "largest") {
                return (
                  <div key={name} className="py-1">
                    <span className="block">
                      Largest part
                      <span className="ml-2 text-small text-ink-2">however it is turned, mm</span>
                    </span>
                    <span className="mt-1 grid grid-cols-3 gap-2">
                      {SIDES.map((side, i) => (
                        <span key={side}>
                          {input(`largest.${i}`, `Largest part, side ${side}`)}
                        </span>
                      ))}
                    </span>
                  </div>
                );
              }
              const one = demands.find((demand) => demand.name === name);
              if (!one) return null;
              return (
                <div
                  key={name}
                  className="grid grid-cols-[1fr_84px_42px] items-center gap-x-2 py-1"
                >
                  <span className="min-w-0">
                    {one.title}
                    <span className="block text-small text-ink-2">{one.about}</span>
                  </span>
                  {input(name, one.title)}
                  <span className="text-ink-2">{one.unit}</span>
                </div>
              );
            })}
          </fieldset>
        ))}
      </div>
      {problem && <Complaint>{problem}</Complaint>}
      {contradicts && (
        <Complaint>
          {titleOf(contradicts[0])} must not be more than {titleOf(contradicts[1])}: what stands
          free needs no less than what is held.
        </Complaint>
      )}
      {onSave && changed && !contradicts && (
        <p role="status" className="border-t border-rule bg-sheet px-6 py-2">
          {items
            ? `Saving judges ${plural(items, "item")} anew; until then ${items === 1 ? "it is" : "they are"} not ready.`
            : "No item in hand is made of it."}
        </p>
      )}
      {onSave ? (
        <footer className="flex items-center gap-3 border-t border-rule bg-paper-2 px-6 py-3">
          <input
            aria-label="Why it changes"
            className={inputLook}
            placeholder="Why it changes (goes into the history)"
            maxLength={1000}
            value={why}
            onChange={(event) => setWhy(event.target.value)}
          />
          <Button
            onClick={() => {
              setTyped(before);
              setDrains(rules.must_drain);
            }}
            disabled={!changed}
          >
            Back
          </Button>
          <Button
            type="submit"
            look="primary"
            className="whitespace-nowrap"
            disabled={!changed || wrong.length > 0 || contradicts !== undefined || saving}
          >
            Save as edition {(material.edition ?? 0) + 1}
          </Button>
        </footer>
      ) : (
        <footer className="border-t border-rule bg-paper-2 px-6 py-3 text-ink-2">
          The shop lead changes rule sheets.
        </footer>
      )}
    </form>
  );
}
