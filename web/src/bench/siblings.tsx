import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router";
import { api, need } from "../api/client";
import { plural } from "../ui/format";

/** Names of items that are told; of more only how many. */
const TOLD = 4;

const times = (factor: number) => `${Number(factor.toPrecision(4))}×`;

/** Items of the order that are scaled otherwise: what came together should fit together. */
export function Siblings({ item, revision }: { item: number; revision: number }) {
  const told = useQuery({
    queryKey: ["item", item, "siblings", revision],
    queryFn: () => need(api.GET("/api/items/{id}/siblings", { params: { path: { id: item } } })),
  }).data;
  if (!told?.count) return null;
  const { factor, unequal, count, equal } = told;
  return (
    <section aria-label="Other items of the order" className="border-t border-rule p-4">
      <h3 className="font-[650]">
        {plural(count, "other item")} of the order {count === 1 ? "is" : "are"} scaled otherwise.
      </h3>
      <p className="mt-1 text-ink-2">
        This one is {times(factor)} the numbers of its file in millimetres
        {equal > 0 && `, as ${plural(equal, "other is", "others are")}`}.
      </p>
      <ul className="mt-1">
        {unequal.slice(0, TOLD).map((one) => (
          <li key={one.id} className="flex justify-between gap-3 py-0.5">
            <Link to={`/items/${one.id}`} className="truncate text-blue hover:underline">
              {one.name}
            </Link>
            <span>{times(one.factor)}</span>
          </li>
        ))}
      </ul>
      {count > TOLD && <p className="text-ink-2">and {plural(count - TOLD, "more", "more")}.</p>}
    </section>
  );
}
