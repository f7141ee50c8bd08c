import { useState } from "react";
import type { RuleSheet } from "../api/client";
import { Button } from "../ui/button";
import { Dialog } from "../ui/dialog";
import { Field, inputLook } from "../ui/field";

export const keyOf = (name: string) =>
  name
    .toLowerCase()
    .normalize("NFD")
    .replace(/[^a-z0-9]+/g, "-")
    .replace(/^-|-$/g, "");

type Props = {
  /** The sheet that its numbers begin with. */
  from: RuleSheet;
  taken: string[];
  onMake: (rules: RuleSheet) => void;
  onClose: () => void;
};

/** A new material that begins with another one's numbers. */
export function NewMaterial({ from, taken, onMake, onClose }: Props) {
  const [name, setName] = useState("");
  const [process, setProcess] = useState(from.process);
  const key = keyOf(name);
  const known = taken.includes(key);
  return (
    <Dialog
      open
      onOpenChange={(open) => {
        if (!open) onClose();
      }}
      title="New material"
      about={`It begins with the numbers of ${from.name.toLowerCase()}; change them afterwards.`}
    >
      <form
        className="space-y-3"
        onSubmit={(event) => {
          event.preventDefault();
          if (key && !known) onMake({ ...from, key, name: name.trim(), process: process.trim() });
        }}
      >
        <Field label="Name">
          <input
            autoFocus
            required
            maxLength={60}
            className={inputLook}
            value={name}
            onChange={(event) => setName(event.target.value)}
          />
        </Field>
        <Field label="Process">
          <input
            required
            maxLength={60}
            className={inputLook}
            value={process}
            onChange={(event) => setProcess(event.target.value)}
          />
        </Field>
        <p className={known ? "text-rust" : "text-ink-2"}>
          {known ? "There is a material of this name." : `Key: ${key || "from the name"}`}
        </p>
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Cancel</Button>
          <Button look="primary" type="submit" disabled={!key || known}>
            Make it
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
