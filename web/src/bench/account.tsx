import type { Account, Revision } from "../api/client";
import { cm2, cm3, count, signed } from "../ui/format";
import { movedBy, takenOut } from "./moved";

/** What the shown revision changed, what it left alone, and why. */
export function AccountOf({ revision }: { revision: Revision }) {
  const { account, steps, left } = revision;
  const why = reasonOf(revision);
  if (!account && !why) return null;
  return (
    <details open className="shrink-0 border-t border-rule bg-paper-2" data-testid="account">
      <summary className="px-4 py-2 font-[650]">
        Account of revision {revision.number}: {revision.title}
      </summary>
      <div className="max-h-[260px] overflow-auto px-4 pb-3">
        {why && <p>Reason: {why}</p>}
        <ul className="list-disc pl-4">
          {steps.map((step) => (
            <li key={step.operation + step.text}>{step.text}</li>
          ))}
        </ul>
        {left.map((line) => (
          <p key={line} className="mt-1.5 border-l-3 border-rust pl-2.5">
            Not done. {line}
          </p>
        ))}
        {account && <Figures account={account} />}
      </div>
    </details>
  );
}

/** Why a person did what only a person may decide, such as taking another material. */
function reasonOf(revision: Revision): string {
  const given = revision.parameters as { why?: unknown } | null;
  return typeof given?.why === "string" ? given.why : "";
}

/** A figure before and after, and the difference of the two as they are shown, in steps. */
function change(
  { before, after }: { before: number; after: number },
  text: (n: number) => string,
  step: number,
): string[] {
  const shown = step * (Math.round(after / step) - Math.round(before / step));
  return [text(before), text(after), before === after ? "same" : signed(shown, text)];
}

function Figures({ account }: { account: Account }) {
  const lines: [string, string[]][] = [
    ["Triangles", change(account.triangles, count, 1)],
    ["Volume", change(account.volume_mm3, cm3, 10)],
    ["Area", change(account.area_mm2, cm2, 10)],
  ];
  return (
    <>
      <table className="mt-2 w-full">
        <thead className="text-left text-ink-2">
          <tr>
            <th />
            <th className="text-right font-normal">before</th>
            <th className="text-right font-normal">after</th>
            <th className="text-right font-normal">change</th>
          </tr>
        </thead>
        <tbody>
          {lines.map(([name, cells]) => (
            <tr key={name}>
              <th className="text-left font-normal text-ink-2">{name}</th>
              {cells.map((cell, i) => (
                <td key={i} className="text-right">
                  {cell}
                </td>
              ))}
            </tr>
          ))}
          <tr>
            <th className="text-left font-normal text-ink-2">As it was</th>
            <td colSpan={3} className="text-right">
              {count(account.unchanged_faces)} triangles
            </td>
          </tr>
        </tbody>
      </table>
      <p className="mt-1.5">
        {movedBy(account)} {takenOut(account)}
      </p>
    </>
  );
}
