import { Link } from "react-router";
import type { Person } from "../api/client";

const PLACES = [
  { to: "/", title: "Orders", lead: false },
  { to: "/materials", title: "Materials", lead: false },
  { to: "/people", title: "People", lead: true },
  { to: "/trail", title: "Trail", lead: true },
];

/** The screens one can go to; the one that is shown stands out. */
export function Places({ person, here }: { person: Person; here: string }) {
  return (
    <>
      {PLACES.filter((one) => !one.lead || person.lead).map(({ to, title }) =>
        to === here ? (
          <b key={to} aria-current="page" className="mr-4 font-[650]">
            {title}
          </b>
        ) : (
          <Link key={to} to={to} className="mr-4 opacity-85 hover:underline">
            {title}
          </Link>
        ),
      )}
    </>
  );
}
