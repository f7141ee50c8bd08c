import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, need } from "../api/client";
import { useCustomers, useOrders } from "../api/queries";
import { Button } from "../ui/button";
import { Dialog } from "../ui/dialog";
import { Complaint, Field, inputLook } from "../ui/field";
import { bytes, plural } from "../ui/format";
import { OneOf } from "../ui/one-of";
import { inDays } from "../ui/dates";
import { MaterialField } from "./material-field";
import { ENDINGS, nameTogether, refusal, refusalTogether, sendAll, sendTogether } from "./upload";

/** Asks whose the files are and what they are to be made of, then sends them. */
export function NewOrder({ files: dropped, onClose }: { files: File[]; onClose: () => void }) {
  const customers = useCustomers();
  const orders = useOrders();
  const queries = useQueryClient();
  const [files, setFiles] = useState(dropped);
  const [into, setInto] = useState("new");
  const [customer, setCustomer] = useState("");
  const [due, setDue] = useState(() => inDays(3));
  const [material, setMaterial] = useState("");
  const [quantity, setQuantity] = useState(1);
  const [name, setName] = useState("");
  const [together, setTogether] = useState(false);
  const asOne = together && files.length > 1;
  const problem = asOne ? refusalTogether(files) : "";

  const make = useMutation({
    mutationFn: async () => {
      if (into !== "new") return Number(into);
      const body = { customer: customer.trim(), due: new Date(due).toISOString() };
      const order = await need(api.POST("/api/orders", { body }));
      return order.id;
    },
    onSuccess: (order) => {
      void queries.invalidateQueries({ queryKey: ["orders"] });
      void queries.invalidateQueries({ queryKey: ["customers"] });
      const wanted = { order, material, quantity };
      void (asOne
        ? sendTogether(wanted, files, name.trim() || nameTogether(files))
        : sendAll(wanted, files));
      onClose();
    },
  });

  return (
    <Dialog
      open
      onOpenChange={(open) => {
        if (!open) onClose();
      }}
      title={files.length ? `Take in ${plural(files.length, "file")}` : "New order"}
      about="Files are stored as they came and examined at once."
      wide
    >
      <form
        className="grid grid-cols-2 gap-4"
        onSubmit={(event) => {
          event.preventDefault();
          make.mutate();
        }}
      >
        <Field label="Into">
          <select
            className={inputLook}
            value={into}
            onChange={(event) => setInto(event.target.value)}
          >
            <option value="new">A new order</option>
            {orders.data?.map((order) => (
              <option key={order.id} value={order.id}>
                {order.number} {order.customer_name}
              </option>
            ))}
          </select>
        </Field>
        {into === "new" && (
          <>
            <Field label="Customer">
              <input
                className={inputLook}
                list="customers"
                required
                autoFocus
                maxLength={120}
                name="customer"
                value={customer}
                onChange={(event) => setCustomer(event.target.value)}
              />
              <datalist id="customers">
                {customers.data?.map((one) => (
                  <option key={one.id} value={one.name} />
                ))}
              </datalist>
            </Field>
            <Field label="Due">
              <input
                className={inputLook}
                type="datetime-local"
                required
                value={due}
                onChange={(event) => setDue(event.target.value)}
              />
            </Field>
          </>
        )}
        <MaterialField value={material} onChange={setMaterial} />
        <Field label={asOne ? "Quantity" : "Quantity of each"}>
          <input
            className={inputLook}
            type="number"
            min={1}
            max={100000}
            required
            value={quantity}
            onChange={(event) => setQuantity(event.target.valueAsNumber || 1)}
          />
        </Field>
        <div className="col-span-2">
          <Field label="Files">
            <input
              type="file"
              multiple
              name="files"
              accept={ENDINGS.join(",")}
              className="block w-full text-ink-2 file:mr-3 file:rounded file:border file:border-slate file:bg-sheet file:px-3 file:py-1.5 file:font-semibold file:text-ink"
              onChange={(event) => setFiles([...files, ...(event.target.files ?? [])])}
            />
          </Field>
          <FileList files={files} onDrop={(gone) => setFiles(files.filter((f) => f !== gone))} />
        </div>
        {files.length > 1 && (
          <Becoming
            together={together}
            onTogether={setTogether}
            name={name}
            onName={setName}
            proposed={nameTogether(files)}
          />
        )}
        {(problem || make.isError) && (
          <div className="col-span-2">
            <Complaint>{problem || make.error?.message}</Complaint>
          </div>
        )}
        <div className="col-span-2 flex justify-end gap-2">
          <Button onClick={onClose}>Not now</Button>
          <Button
            look="primary"
            type="submit"
            disabled={make.isPending || !files.length || !!problem}
          >
            Take in
          </Button>
        </div>
      </form>
    </Dialog>
  );
}

const BECOMING = [
  { value: false, says: "an item each" },
  { value: true, says: "one item, each file at its own place" },
];

/** Whether several files become an item each, or one. */
function Becoming(props: {
  together: boolean;
  onTogether: (together: boolean) => void;
  name: string;
  onName: (name: string) => void;
  proposed: string;
}) {
  const { together, onTogether } = props;
  return (
    <div className="col-span-2 grid grid-cols-2 gap-4">
      <OneOf
        label="They become"
        name="becoming"
        value={together}
        of={BECOMING}
        onChange={onTogether}
      />
      {together && (
        <Field label="Name of the item">
          <input
            className={inputLook}
            maxLength={120}
            placeholder={props.proposed}
            value={props.name}
            onChange={(event) => props.onName(event.target.value)}
          />
        </Field>
      )}
    </div>
  );
}

function FileList({ files, onDrop }: { files: File[]; onDrop: (file: File) => void }) {
  return (
    <ul className="mt-2 max-h-44 overflow-auto">
      {files.map((file, i) => (
        <li
          key={`${file.name} ${i}`}
          className="flex items-baseline gap-3 border-b border-paper-3 py-0.5"
        >
          <span className="flex-1 truncate">{file.name}</span>
          <span className={refusal(file) ? "text-rust" : "text-ink-2"}>
            {refusal(file) || bytes(file.size)}
          </span>
          <Button look="quiet" className="py-0" onClick={() => onDrop(file)}>
            Leave out
          </Button>
        </li>
      ))}
    </ul>
  );
}
