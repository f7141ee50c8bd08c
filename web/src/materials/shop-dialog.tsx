import { useState } from "react";
import { Button } from "../ui/button";
import { Dialog } from "../ui/dialog";
import { Complaint, inputLook } from "../ui/field";
import { timeOf } from "../ui/format";
import { Notice } from "../ui/notice";
import { useSettle, useShop } from "./queries";

type Values = Record<string, unknown>;

/** What the shop has settled for all materials: limits of the checks, what mending decides. */
export function ShopDialog({ lead, onClose }: { lead: boolean; onClose: () => void }) {
  const shop = useShop();
  const settle = useSettle();
  const [changes, setChanges] = useState<Values>({});
  const settings = shop.data?.settings ?? [];
  const held = shop.data?.values ?? {};
  const values: Values = { ...held, ...changes };
  const wrong = settings.filter(
    ({ kind, name, least, most }) =>
      kind === "number" &&
      !(
        String(values[name]).trim() !== "" &&
        Number(values[name]) >= least &&
        Number(values[name]) <= most
      ),
  );
  const numbers = settings.filter((one) => one.kind === "number");
  const given = {
    ...values,
    ...Object.fromEntries(numbers.map(({ name }) => [name, Number(values[name])])),
  };
  const changed = settings.some(({ name }) => given[name as keyof typeof given] !== held[name]);
  const set = (name: string, value: unknown) => setChanges({ ...changes, [name]: value });
  return (
    <Dialog
      open
      onOpenChange={onClose}
      title="Limits and policy of the shop"
      about="For items examined and mended from now on; what is done stays as it is."
      wide
    >
      {shop.isError ? (
        <Complaint>{shop.error.message}</Complaint>
      ) : !shop.data ? (
        <Notice title="Fetching what is settled…" />
      ) : (
        <form
          onSubmit={(event) => {
            event.preventDefault();
            settle.mutate(given, { onSuccess: onClose });
          }}
        >
          {settings.map(({ name, title, about, kind, unit, choices, offers, least, most }) => (
            <label
              key={name}
              className="grid grid-cols-[1fr_200px_36px] items-center gap-x-3 border-b border-rule py-1.5"
            >
              <span>
                {title}
                <span className="block text-small text-ink-2">{about}</span>
              </span>
              {kind === "number" ? (
                <input
                  type="number"
                  step="any"
                  min={least}
                  max={most}
                  readOnly={!lead}
                  className={`${inputLook} text-right`}
                  value={String(values[name])}
                  onChange={(event) => set(name, event.target.value)}
                />
              ) : (
                <select
                  disabled={!lead}
                  className={inputLook}
                  value={String(values[name])}
                  onChange={(event) =>
                    set(
                      name,
                      kind === "switch" ? event.target.value === "true" : event.target.value,
                    )
                  }
                >
                  {kind === "switch" ? (
                    <>
                      <option value="true">are united</option>
                      <option value="false">a person decides</option>
                    </>
                  ) : (
                    choices.map((choice, i) => (
                      <option key={choice} value={choice}>
                        {offers[i]}
                      </option>
                    ))
                  )}
                </select>
              )}
              <span className="text-ink-2">{unit}</span>
            </label>
          ))}
          {wrong.map(({ name, title, least, most, unit }) => (
            <p key={name} role="alert" className="pt-2 text-rust">
              {title}: {least} to {most} {unit}.
            </p>
          ))}
          {settle.isError && <Complaint>{settle.error.message}</Complaint>}
          <footer className="flex items-center gap-3 pt-4">
            <span className="flex-1 text-ink-2">
              {shop.data.at
                ? `Settled by ${shop.data.by}, ${timeOf(shop.data.at)}`
                : "As it comes; nobody has changed it."}
              {!lead && " The shop lead changes it."}
            </span>
            <Button onClick={onClose}>Close</Button>
            {lead && (
              <Button
                type="submit"
                look="primary"
                disabled={!changed || wrong.length > 0 || settle.isPending}
              >
                Settle
              </Button>
            )}
          </footer>
        </form>
      )}
    </Dialog>
  );
}
