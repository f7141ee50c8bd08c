import { useRef, useState } from "react";
import { Link, useParams } from "react-router";
import type { Material, Person, RuleSheet } from "../api/client";
import { useMaterials } from "../api/queries";
import { useInHand } from "../orders/queries";
import { useAskFirst } from "../ui/unsaved";
import { Button } from "../ui/button";
import { Complaint } from "../ui/field";
import { KeyList, type KeyLine } from "../ui/key-list";
import { useKeys } from "../ui/keys";
import { Notice } from "../ui/notice";
import { Places } from "../ui/places";
import { useTitle } from "../ui/title";
import { TopBar } from "../ui/top-bar";
import { History } from "./history";
import { Machines } from "./machines";
import { NewMaterial } from "./new-material";
import { useChanges, useDemands, useEditions, useMachines } from "./queries";
import { ShopDialog } from "./shop-dialog";
import { SheetForm } from "./sheet-form";

const KEYS: readonly KeyLine[] = [
  ["N P", "Next, previous material"],
  ["⇧L", "Limits and policy of the shop"],
  ["O", "Back to the orders"],
  ["?", "These keys"],
];

const hasRules = (one: Material): one is Material & { rules: RuleSheet } => one.rules !== null;

/** What the shop's materials demand: the lead changes it, everybody reads it. */
export default function MaterialsScreen({ person }: { person: Person }) {
  const materials = useMaterials();
  const demands = useDemands();
  const machines = useMachines().data ?? [];
  const changes = useChanges();
  const [keysShown, setKeysShown] = useState(false);
  const [copying, setCopying] = useState(false);
  const [settling, setSettling] = useState(false);
  const [told, setTold] = useState("");
  const [unsaved, setUnsaved] = useState(false);
  const navigate = useAskFirst(unsaved);
  const key = useParams().key;
  const all = (materials.data ?? []).filter(hasRules);
  const chosen = all.find((one) => one.key === key) ?? (key ? undefined : all[0]);
  const editions = useEditions(chosen?.key);
  const inHand = useInHand(chosen?.key).data ?? 0;
  useTitle(chosen?.name, "Materials");
  const processes = [...new Set(all.map((one) => one.process))].sort();
  const file = useRef<HTMLInputElement>(null);
  const step = (by: number) => {
    const next = all[all.findIndex((one) => one === chosen) + by];
    if (next) void navigate(`/materials/${next.key}`);
  };
  useKeys({
    n: () => step(1),
    p: () => step(-1),
    "shift+l": () => setSettling(true),
    o: () => void navigate("/"),
    "?": () => setKeysShown(true),
  });
  const bring = async (given: File) => {
    setTold("");
    let sheets: unknown;
    try {
      const read = JSON.parse(await given.text()) as unknown;
      sheets = Array.isArray(read) ? read : (read as { sheets?: unknown }).sheets;
    } catch {
      sheets = undefined;
    }
    if (!Array.isArray(sheets)) {
      setTold(`${given.name} holds no rule sheets: JSON with a list called “sheets” is read.`);
      return;
    }
    changes.bring.mutate(
      { sheets, why: `from ${given.name}` },
      {
        onSuccess: ({ changed, unchanged }) =>
          setTold(
            changed.length
              ? `Taken: ${changed.join(", ")}. ${unchanged.length} as before.`
              : "All sheets of the file are as they hold already.",
          ),
      },
    );
  };
  const problem = [changes.bring, changes.addMachine, changes.dropMachine].find((c) => c.isError);
  return (
    <div className="flex h-full flex-col">
      <TopBar person={person} onKeys={() => setKeysShown(true)}>
        <Places person={person} here="/materials" />
      </TopBar>
      <div className="flex min-h-0 flex-1">
        <nav
          aria-label="Materials"
          className="flex w-[232px] shrink-0 flex-col overflow-auto border-r border-rule"
        >
          <div className="flex-1 py-3">
            {processes.map((process) => (
              <div key={process} className="pb-3">
                <h2 className="px-4 pb-1 font-semibold text-ink-2">{process}</h2>
                {all
                  .filter((one) => one.process === process)
                  .map((one) => (
                    <Link
                      key={one.key}
                      to={`/materials/${one.key}`}
                      aria-current={one === chosen || undefined}
                      className={`flex justify-between border-l-3 py-1 pl-[13px] pr-4 ${
                        one === chosen
                          ? "border-blue bg-sheet font-[650]"
                          : "border-transparent hover:bg-paper-2"
                      }`}
                    >
                      {one.name}
                    </Link>
                  ))}
              </div>
            ))}
          </div>
          <div className="border-t border-rule px-4 py-3">
            <Button className="w-full" hint="⇧L" onClick={() => setSettling(true)}>
              Limits and policy…
            </Button>
          </div>
          <Machines
            machines={machines}
            processes={processes}
            onAdd={person.lead ? (machine) => changes.addMachine.mutate(machine) : null}
            onDrop={(id) => changes.dropMachine.mutate(id)}
          />
        </nav>
        <main className="flex min-w-0 flex-1 flex-col bg-sheet">
          {materials.isError && !materials.data ? (
            <Notice title="The materials cannot be shown.">{materials.error.message}</Notice>
          ) : materials.isPending || demands.isPending ? (
            <Notice title="Fetching the materials…" />
          ) : chosen && demands.data ? (
            <>
              <header className="flex items-start gap-4 border-b border-rule px-6 py-4">
                <div className="flex-1">
                  <h1 className="text-title font-[650]">{chosen.name}</h1>
                  <p className="text-ink-2">
                    {chosen.process}, edition {chosen.edition}
                    {roomText(chosen.rules, machines)}
                  </p>
                </div>
                {person.lead && <Button onClick={() => setCopying(true)}>Copy as new…</Button>}
              </header>
              <SheetForm
                key={`${chosen.key} ${chosen.edition}`}
                material={chosen}
                demands={demands.data}
                saving={changes.edit.isPending}
                problem={changes.edit.error?.message}
                items={inHand}
                onUnsaved={setUnsaved}
                onSave={person.lead ? (rules, why) => changes.edit.mutate({ rules, why }) : null}
              />
            </>
          ) : (
            <Notice title={all.length ? "There is no such material." : "No materials yet."}>
              {all.length ? "Choose one on the left." : "Bring in a file of rule sheets."}
            </Notice>
          )}
        </main>
        <aside
          aria-label="History"
          className="flex w-[300px] shrink-0 flex-col border-l border-rule"
        >
          <h2 className="border-b border-rule px-4 py-4 text-verdict font-[650]">History</h2>
          <History
            editions={editions.data ?? []}
            demands={demands.data ?? []}
            onHoldAgain={person.lead ? (rules, why) => changes.edit.mutate({ rules, why }) : null}
          />
          <div className="space-y-2 border-t border-rule px-4 py-3">
            {problem && <Complaint>{problem.error.message}</Complaint>}
            {told && <p role="status">{told}</p>}
            <div className="flex gap-2">
              {person.lead && (
                <Button className="flex-1" onClick={() => file.current?.click()}>
                  Bring in…
                </Button>
              )}
              <a
                href="/api/materials/file"
                download
                className="flex-1 rounded border border-slate bg-sheet px-3 py-1.5 text-center font-semibold hover:bg-paper-2"
              >
                Take away
              </a>
            </div>
            <p className="text-small text-ink-2">All rule sheets as one JSON file.</p>
            <input
              ref={file}
              type="file"
              accept=".json,application/json"
              aria-label="File of rule sheets"
              className="hidden"
              onChange={(event) => {
                const given = event.target.files?.[0];
                event.target.value = "";
                if (given) void bring(given);
              }}
            />
          </div>
        </aside>
      </div>
      {settling && <ShopDialog lead={person.lead} onClose={() => setSettling(false)} />}
      {copying && chosen && (
        <NewMaterial
          from={chosen.rules}
          taken={all.map((one) => one.key)}
          onClose={() => setCopying(false)}
          onMake={(rules) =>
            changes.bring.mutate(
              { sheets: [rules], why: `copied from ${chosen.name.toLowerCase()}` },
              {
                onSuccess: () => {
                  setCopying(false);
                  void navigate(`/materials/${rules.key}`);
                },
              },
            )
          }
        />
      )}
      <KeyList open={keysShown} onOpenChange={setKeysShown} lines={KEYS} />
    </div>
  );
}

/** Which machines take its largest part, in words. */
function roomText(
  rules: RuleSheet,
  machines: { process: string; name: string; x: number; y: number; z: number }[],
) {
  const mine = machines.filter((one) => one.process === rules.process);
  if (!mine.length) return "; no machine runs this process";
  const sorted = (sides: readonly number[]) => [...sides].sort((a, b) => a - b);
  const part = sorted(rules.largest);
  const fits = mine.filter(({ x, y, z }) => sorted([x, y, z]).every((room, i) => part[i]! <= room));
  if (!fits.length) return "; its largest part fits none of the machines";
  return `; its largest part fits ${fits.map((one) => one.name).join(" and ")}`;
}
