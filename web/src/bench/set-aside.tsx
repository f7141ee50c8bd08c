import type { Item } from "../api/client";
import { Reason } from "../ui/reason";
import type { Work } from "./use-work";

/** Nothing more is done about an item, or something is again. */
export function SetAside({ item, work }: { item: Item; work: Work }) {
  if (item.released) return null;
  const aside = item.set_aside;
  return (
    <section className="px-4 py-3">
      <h3 className="font-[650]">{aside ? "Take it up again" : "Set it aside"}</h3>
      <p className="text-ink-2">
        {aside ? "It is worked on again." : "Nothing more is done about it; it is kept as it is."}
      </p>
      <Reason
        about={`${item.id} aside`}
        label={aside ? "Reason to take it up" : "Reason to set it aside"}
        placeholder="Because…"
        says={aside ? "Take up" : "Set aside"}
        className="mt-2"
        onReason={
          work.busy
            ? null
            : (reason) => work.actions.setAside.mutateAsync({ aside: !aside, reason })
        }
      />
    </section>
  );
}
