// @vitest-environment jsdom
import { act, screen, waitFor } from "@testing-library/react";
import { useState } from "react";
import { beforeEach, describe, expect, it } from "vitest";
import type { Item } from "../api/client";
import { serve, show } from "../tests/dom";
import { full, job, person, revision } from "../tests/makers";
import { WorkingPerson } from "../session/person";
import { useBench } from "./store";
import { useShown } from "./use-shown";
import { useWork } from "./use-work";

const line = (id: number, number: number, parent: number | null) => ({
  ...revision(),
  ...{ id, number, parent, examination: id * 10 },
});
const first = line(7, 0, null);
const second = line(8, 1, 7);

function Desk({ item }: { item: Item }) {
  const shown = useShown(item);
  const work = useWork(item, shown);
  return (
    <>
      <p>looks at {shown.line?.number}</p>
      <p>{shown.movedOn ? `moved on to ${shown.movedOn.number}` : "holds"}</p>
      <p>{work.canWork ? "can work" : "cannot"}</p>
      {work.problem && <p role="alert">{work.problem}</p>}
      <button onClick={work.mend}>Mend</button>
      <button onClick={() => useBench.getState().follow(8)}>Look</button>
    </>
  );
}

let arrives: (item: Item) => void = () => undefined;

/** The item as it was, and as it arrives later. */
function Later({ item }: { item: Item }) {
  const [now, setNow] = useState(item);
  arrives = (next) => act(() => setNow(next));
  return <Desk item={now} />;
}

const routes = {
  "GET /api/materials": [],
  "GET /api/operations": [],
  "GET /api/revisions/7": first,
  "GET /api/revisions/8": second,
  "GET /api/revisions/7/stand": { seam: [], covered: [] },
};
beforeEach(() => useBench.getState().reset());

describe("work on an item", () => {
  it("names the revision looked at, and goes along with what this page has started", async () => {
    const started = job("waiting", { id: 91 });
    const asked = serve({ ...routes, "POST /api/items/1/mend": started });
    const { user } = show(<Later item={full({ revisions: [first] })} />);
    await user.click(screen.getByText("Mend"));
    const post = asked.find((one) => one.method === "POST")!;
    expect(post.body).toEqual({ revision: 7 });
    await waitFor(() => expect(screen.getByText("can work")).toBeTruthy());
    const mended = full({
      ...{ revisions: [first, second], current: 8 },
      job: job("done", { id: 91 }),
    });
    arrives(mended);
    expect(screen.getByText("looks at 1")).toBeTruthy();
    expect(screen.getByText("holds")).toBeTruthy();
  });

  it("stays where it is when somebody else moves the item on, until asked to follow", async () => {
    serve(routes);
    const { user } = show(<Later item={full({ revisions: [first] })} />);
    const theirs = full({
      ...{ revisions: [first, second], current: 8 },
      job: job("done", { id: 92, by: "Odd Ness" }),
    });
    arrives(theirs);
    expect(screen.getByText("looks at 0")).toBeTruthy();
    expect(screen.getByText("moved on to 1")).toBeTruthy();
    expect(screen.getByText("cannot")).toBeTruthy();
    await user.click(screen.getByText("Look"));
    expect(screen.getByText("looks at 1")).toBeTruthy();
    expect(screen.getByText("can work")).toBeTruthy();
  });

  it("forgets that work went on when it has ended", async () => {
    const words = "Odd Ness has work going on here; wait for it, or stop it.";
    serve({ ...routes, "POST /api/items/1/mend": () => [409, { detail: words }] });
    const going = full({ revisions: [first], job: job("running", { id: 93 }) });
    const { user } = show(<Later item={going} />);
    await user.click(screen.getByText("Mend"));
    expect((await screen.findByRole("alert")).textContent).toBe(words);
    arrives(full({ revisions: [first], job: job("done", { id: 93 }) }));
    await waitFor(() => expect(screen.queryByRole("alert")).toBeNull());
  });

  it("is nothing for who may only look", () => {
    serve(routes);
    show(
      <WorkingPerson value={person({ may_change: false })}>
        <Later item={full({ revisions: [first] })} />
      </WorkingPerson>,
    );
    expect(screen.getByText("cannot")).toBeTruthy();
  });
});
