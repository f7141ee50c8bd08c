import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { useNavigate } from "react-router";
import { api, need, type Order } from "../api/client";
import { Button } from "../ui/button";
import { Dialog } from "../ui/dialog";
import { Complaint, Field, inputLook } from "../ui/field";
import { OneOf } from "../ui/one-of";

/** Removes an order, or all of its customer, with files and revisions; asks for a reason. */
export function RemoveOrder({ order, onClose }: { order: Order; onClose: () => void }) {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const [whole, setWhole] = useState(false);
  const [reason, setReason] = useState("");
  const remove = useMutation({
    mutationFn: () => {
      const body = { reason };
      return whole
        ? need(
            api.POST("/api/customers/{id}/remove", {
              params: { path: { id: order.customer } },
              body,
            }),
          )
        : need(api.POST("/api/orders/{id}/remove", { params: { path: { id: order.id } }, body }));
    },
    onSuccess: async () => {
      await navigate("/");
      queries.removeQueries({ queryKey: ["item"] });
      for (const key of ["items", "counts", "orders", "customers"])
        void queries.invalidateQueries({ queryKey: [key] });
    },
  });
  const choices = [
    { value: false, says: `Order ${order.number}` },
    { value: true, says: `Everything that ${order.customer_name} ever sent, and the name` },
  ];
  return (
    <Dialog
      open
      onOpenChange={(open) => !open && onClose()}
      title="Remove for good"
      about="Files, revisions, decisions, releases and letters go, and cannot be brought back. The trail keeps what was done, and by whom."
    >
      <form
        className="flex flex-col gap-4"
        onSubmit={(event) => {
          event.preventDefault();
          remove.mutate();
        }}
      >
        <OneOf
          label="What is removed"
          quiet
          name="what"
          value={whole}
          of={choices}
          onChange={setWhole}
        />
        <Field label="Why">
          <input
            className={inputLook}
            required
            minLength={3}
            maxLength={1000}
            autoFocus
            value={reason}
            onChange={(event) => setReason(event.target.value)}
          />
        </Field>
        {remove.isError && <Complaint>{remove.error.message}</Complaint>}
        <div className="flex justify-end gap-2">
          <Button onClick={onClose}>Not now</Button>
          <Button look="primary" type="submit" disabled={remove.isPending}>
            Remove
          </Button>
        </div>
      </form>
    </Dialog>
  );
}
