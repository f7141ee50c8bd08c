import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, type Item, need } from "../api/client";
import { useAccounts, useItemActions } from "../api/queries";
import { asField } from "../ui/dates";
import { RemoveOrder } from "../orders/remove-order";
import { useWorkingPerson } from "../session/person";
import { Button } from "../ui/button";
import { useDraft } from "../ui/drafts";
import { Complaint, inputLook } from "../ui/field";
import { due, timeOf } from "../ui/format";

/** What the people of the shop tell each other about an item: who has it, what they wrote. */
export function ShopNotes({ item }: { item: Item }) {
  const mayChange = useWorkingPerson()?.may_change ?? false;
  return (
    <>
      <Assignee item={item} mayChange={mayChange} />
      <OrderNote key={item.order.id} item={item} mayChange={mayChange} />
      <Comments item={item} mayChange={mayChange} />
    </>
  );
}

type Props = { item: Item; mayChange: boolean };

function Assignee({ item, mayChange }: Props) {
  const people = useAccounts().data ?? [];
  const { assign } = useItemActions(item.id);
  const able = people.filter(
    (one) => (one.active && one.role !== "read-only") || one.username === item.assignee,
  );
  return (
    <label className="block border-t border-rule px-3.5 py-3">
      <span className="font-semibold text-ink-2">Looked after by</span>
      {mayChange ? (
        <select
          className={`${inputLook} mt-1`}
          value={item.assignee}
          onChange={(event) => assign.mutate({ assignee: event.target.value })}
        >
          <option value="">Nobody</option>
          {able.map((one) => (
            <option key={one.username} value={one.username}>
              {one.name}
            </option>
          ))}
        </select>
      ) : (
        <span className="block">{item.assignee_name || "Nobody"}</span>
      )}
      {assign.isError && <Complaint>{assign.error.message}</Complaint>}
    </label>
  );
}

/** The order's note and due date: of all its items. */
function OrderNote({ item, mayChange }: Props) {
  const queries = useQueryClient();
  const { order } = item;
  const [seen, setSeen] = useState<{ note: string; due: string } | null>(null);
  const [note, setNote] = useState("");
  const [until, setUntil] = useState("");
  const [removing, setRemoving] = useState(false);
  const lead = useWorkingPerson()?.lead ?? false;
  const save = useMutation({
    mutationFn: (before: { note: string; due: string }) =>
      need(
        api.PATCH("/api/orders/{id}", {
          params: { path: { id: order.id } },
          body: {
            note,
            note_seen: before.note,
            due: new Date(until).toISOString(),
            due_seen: before.due,
          },
        }),
      ),
    onSuccess: () => {
      setSeen(null);
      return queries.invalidateQueries({ queryKey: ["item", item.id] });
    },
  });
  const edit = () => {
    setSeen({ note: order.note, due: order.due });
    setNote(order.note);
    setUntil(asField(new Date(order.due)));
    save.reset();
  };
  return (
    <section className="border-t border-rule px-3.5 py-3">
      <div className="flex items-baseline justify-between gap-2">
        <h2 className="font-semibold text-ink-2">Order {order.number}</h2>
        {mayChange && !seen && (
          <span className="flex gap-3">
            <Button look="quiet" className="py-0" onClick={edit}>
              Edit
            </Button>
            {lead && (
              <Button look="quiet" className="py-0" onClick={() => setRemoving(true)}>
                Remove…
              </Button>
            )}
          </span>
        )}
      </div>
      {seen ? (
        <form
          className="mt-1 flex flex-col gap-2"
          onSubmit={(event) => {
            event.preventDefault();
            save.mutate(seen);
          }}
        >
          <input
            aria-label="Due"
            type="datetime-local"
            required
            className={inputLook}
            value={until}
            onChange={(event) => setUntil(event.target.value)}
          />
          <textarea
            aria-label="Note of the order"
            rows={4}
            maxLength={4000}
            className={inputLook}
            value={note}
            onChange={(event) => setNote(event.target.value)}
          />
          {save.isError && <Complaint>{save.error.message}</Complaint>}
          <div className="flex justify-end gap-2">
            <Button onClick={() => setSeen(null)}>Not now</Button>
            <Button type="submit" disabled={save.isPending}>
              Keep
            </Button>
          </div>
        </form>
      ) : (
        <>
          <p>Due {due(order.due).text}</p>
          {order.note && <p className="mt-1 whitespace-pre-line break-words">{order.note}</p>}
        </>
      )}
      {removing && <RemoveOrder order={order} onClose={() => setRemoving(false)} />}
    </section>
  );
}

function Comments({ item, mayChange }: Props) {
  const { comment } = useItemActions(item.id);
  const [text, write] = useDraft(`${item.id} comment`);
  return (
    <section aria-label="Comments" className="border-t border-rule px-3.5 py-3">
      <h2 className="font-semibold text-ink-2">Comments</h2>
      {item.comments.map((one) => (
        <div key={one.id} className="mt-1.5">
          <p className="whitespace-pre-line break-words">{one.text}</p>
          <p className="text-small text-ink-2">
            {one.by}, {timeOf(one.at)}
          </p>
        </div>
      ))}
      {mayChange && (
        <form
          className="mt-2 flex flex-col gap-2"
          onSubmit={(event) => {
            event.preventDefault();
            if (text.trim()) {
              comment.mutate({ text: text.trim() }, { onSuccess: () => write("") });
            }
          }}
        >
          <textarea
            aria-label="A comment for the others"
            placeholder="For the others of the shop"
            rows={2}
            maxLength={4000}
            className={inputLook}
            value={text}
            onChange={(event) => write(event.target.value)}
          />
          {comment.isError && <Complaint>{comment.error.message}</Complaint>}
          {text.trim() && (
            <div className="flex justify-end">
              <Button type="submit" disabled={comment.isPending}>
                Add
              </Button>
            </div>
          )}
        </form>
      )}
    </section>
  );
}
