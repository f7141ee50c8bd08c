import type { Item, Revision } from "../api/client";
import { bytes, cm2, count, sizeOf, volume } from "../ui/format";
import { useShop } from "../materials/queries";
import { fileSizes, type SizeOfFile } from "./file-sizes";
import { ShopNotes } from "./shop-notes";

/** Name, place, measures and origin of the item; always in sight. */
export function Facts(props: {
  item: Item;
  revision: Revision | undefined;
  children?: React.ReactNode;
}) {
  const { item, revision } = props;
  const report = revision?.report;
  const source = { guessed: "guessed", file: "from the file", given: "set by you" };
  const lines: [string, string][] = [
    ["Material", item.material_name],
    ["Quantity", count(item.quantity)],
  ];
  const measures: [string, string][] = report
    ? [
        ["Triangles", count(report.triangles)],
        [
          "Volume",
          report.volume_mm3 < 0
            ? `${volume(report.volume_mm3)}, inside out`
            : volume(report.volume_mm3),
        ],
        ["Area", cm2(report.area_mm2)],
        ["Unit", `${report.unit}, ${source[report.unit_source as keyof typeof source]}`],
      ]
    : [];
  return (
    <aside aria-label="Item" className="flex w-[212px] shrink-0 flex-col border-r border-rule">
      <div className="min-h-0 flex-1 overflow-auto pt-4">
        <h1 className="px-3.5 text-[14px] font-[650]">{item.name}</h1>
        <p className="px-3.5 text-ink-2">
          Order {item.order.number}, {item.order.customer_name}
        </p>
        <List lines={lines} />
        {item.note && (
          <div className="border-t border-rule px-3.5 py-3">
            <h2 className="font-semibold text-ink-2">The customer writes</h2>
            <p className="mt-1">{item.note}</p>
          </div>
        )}
        {report && (
          <>
            <h2 className="border-t border-rule px-3.5 pt-3 font-semibold text-ink-2">
              Revision {revision.number}
            </h2>
            <p className="whitespace-nowrap px-3.5 pt-1 font-[650]">{sizeOf(report.size_mm)}</p>
            <List lines={measures} />
            <Files triangles={report.triangles} />
          </>
        )}
        <ShopNotes item={item} />
        {report?.notes?.map((note) => (
          <p key={note} className="border-t border-rule px-3.5 py-3">
            {note}
          </p>
        ))}
        <div className="border-t border-rule px-3.5 py-3">
          <h2 className="font-semibold text-ink-2">As received</h2>
          <a
            href={`/api/items/${item.id}/received`}
            className="mt-1 block break-all text-blue underline-offset-2 hover:underline"
          >
            {item.file_name}
          </a>
          <span className="text-ink-2">{bytes(item.received_bytes)}, kept untouched</span>
        </div>
      </div>
      {props.children}
    </aside>
  );
}

/** How large its file would be, against what the shop sends on. */
function Files({ triangles }: { triangles: number }) {
  const megabytes = useShop().data?.values.file_megabytes;
  const most = typeof megabytes === "number" ? megabytes * 1e6 : Infinity;
  const sizes = fileSizes(triangles);
  const told = ({ bytes: n, exact }: SizeOfFile) => `${exact ? "" : "about "}${bytes(n)}`;
  return (
    <dl
      aria-label="Size of the file"
      className="-mt-3 px-3.5 pb-3"
      title={sizes.map((one) => `${one.format.toUpperCase()} ${told(one)}`).join(", ")}
    >
      {sizes.slice(0, 2).map((one) => (
        <div key={one.format} className="flex justify-between gap-3 py-0.5">
          <dt className="text-ink-2">As {one.format.toUpperCase()}</dt>
          <dd className={`text-right ${one.bytes > most ? "font-[650] text-rust" : ""}`}>
            {told(one)}
            {one.bytes > most && `, ${bytes(most)} at most`}
          </dd>
        </div>
      ))}
    </dl>
  );
}

function List({ lines }: { lines: [string, string][] }) {
  return (
    <dl className="px-3.5 py-3">
      {lines.map(([name, value]) => (
        <div key={name} className="flex justify-between gap-3 py-0.5">
          <dt className="text-ink-2">{name}</dt>
          <dd className="text-right">{value}</dd>
        </div>
      ))}
    </dl>
  );
}
