import type { Item } from "../api/client";
import { Dialog } from "../ui/dialog";
import { Complaint } from "../ui/field";
import { Entries } from "./entries";
import { useItemTrail } from "./queries";

/** All that happened to an item, to be read or taken away. */
export function ItemTrail({ item, onClose }: { item: Item; onClose: () => void }) {
  const trail = useItemTrail(item.id);
  return (
    <Dialog
      open
      onOpenChange={onClose}
      title={`Trail of ${item.name}`}
      about="Who did what, and when. The database keeps it, and lets nobody change it."
      wide
    >
      {trail.isError && <Complaint>{trail.error.message}</Complaint>}
      {trail.data && <Entries entries={trail.data} linked={false} />}
      <a
        href={`/api/items/${item.id}/trail/file`}
        download
        className="mt-3 inline-block text-blue hover:underline"
      >
        Take it away as a table
      </a>
    </Dialog>
  );
}
