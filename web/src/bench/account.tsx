import type { Account, Revision } from "../api/client";
import { Button } from "../ui/button";
import { cm2, cm3, count, signed, timeOf } from "../ui/format";
import { priceOf, thinnestOf, weightOf } from "./figures";
import { movedBy, takenOut } from "./moved";

type Props = {
  revision: Revision;
  /** The one that it was made of, once it has come. */
  before: Revision | undefined;
  /** Key of the material ordered, and how many. */
  material: string;
  quantity: number;
  /** Look at the place where the skin moved most. */
  onShow: ((at: readonly number[]) => void) | null;
  onClose: () => void;
};

/** What the shown revision changed, what it left alone, and why: over the foot of the view. */
export function AccountSheet(props: Props) {
  const { revision, onClose } = props;
  const { account, steps, left } = revision;
  const why = reasonOf(revision);
  return (
    <section
      aria-label={`Account of revision ${revision.number}`}
      data-testid="account"
      className="pointer-events-auto mb-2 max-h-[46vh] w-full max-w-[1100px] overflow-auto rounded border-t-3 border-t-ink bg-sheet px-4 py-3 shadow"
    >
      <div className="flex flex-wrap gap-x-6 gap-y-3">
        <div className="min-w-[190px] flex-[3]">
          <h3>
            <b className="font-[650]">
              Account of revision {revision.number}: {revision.title}
            </b>{" "}
            <span className="text-ink-2">
              by {revision.made_by || "the shop"}, {timeOf(revision.made)}
            </span>
          </h3>
          {why && <p className="mt-1">Reason: {why}</p>}
          {steps.map((step) => (
            <p key={step.operation + step.text} className="mt-1">
              {step.text}
            </p>
          ))}
          {left.map((line) => (
            <p key={line} className="mt-1 text-rust">
              Not done. {line}
            </p>
          ))}
          {!account && !why && <p className="mt-1">This is the file as it was received.</p>}
        </div>
        {account && <Figures {...props} account={account} />}
        {account && <Moved {...props} account={account} />}
      </div>
      <Button look="quiet" hint="Esc" className="!px-0 !pb-0" onClick={onClose}>
        Roll it up
      </Button>
    </section>
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

function Figures({ revision, before, material, quantity, account }: Props & { account: Account }) {
  const lines: [string, string[]][] = [
    ["Triangles", change(account.triangles, count, 1)],
    ["Volume", change(account.volume_mm3, cm3, 10)],
    ["Area", change(account.area_mm2, cm2, 10)],
  ];
  // what the material says of both, where it says something
  const reports = [before?.report, revision.report];
  const told: [string, (report: Revision["report"]) => string][] = [
    ["Weight", (report) => weightOf(report, material)],
    [`Price, ${quantity}`, (report) => priceOf(report, material, quantity)],
    ["Thinnest", thinnestOf],
  ];
  for (const [title, of] of told) {
    const cells = reports.map((report) => (report ? of(report) : ""));
    if (cells[1]) lines.push([title, [cells[0] || "—", cells[1], ""]]);
  }
  return (
    <table className="h-fit flex-[2]">
      <thead className="text-ink-2">
        <tr>
          <th />
          {["before", "after", "change"].map((head) => (
            <th key={head} className="pl-3 text-right font-normal">
              {head}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {lines.map(([name, cells]) => (
          <tr key={name}>
            <th className="whitespace-nowrap text-left font-normal text-ink-2">{name}</th>
            {cells.map((cell, i) => (
              <td key={i} className="whitespace-nowrap pl-3 text-right">
                {cell}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Moved({ account, onShow }: Props & { account: Account }) {
  const { unchanged_faces: same, triangles, max_deviation_at: at } = account;
  return (
    <div className="min-w-[130px] flex-[2]">
      <h3 className="font-[650]">How far the skin moved</h3>
      <p className="mt-1">{[movedBy(account), takenOut(account)].filter(Boolean).join(" ")}</p>
      {at && onShow && account.max_deviation_mm > 0.0005 && (
        <Button look="quiet" className="!p-0" onClick={() => onShow(at)}>
          Show where
        </Button>
      )}
      <p className="mt-1 text-ink-2">
        {count(same)} of {count(triangles.before)} triangles are the same bit for bit.
      </p>
    </div>
  );
}
