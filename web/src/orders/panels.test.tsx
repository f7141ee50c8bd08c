// @vitest-environment jsdom
import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import { beforeEach, describe, expect, it, vi } from "vitest";
import type { ItemLine } from "../api/client";
import { serve, show } from "../tests/dom";
import { item, job, page, person as makePerson, question, segment } from "../tests/makers";
import { Login } from "../session/login";
import { Notice } from "../ui/notice";
import { JobProgress } from "../ui/progress";
import { KeyList } from "../ui/key-list";
import { TopBar } from "../ui/top-bar";
import { keysOf } from "../api/connection";
import { addressOf, askedIn } from "./asked";
import { COLUMNS } from "./columns";
import { DropZone } from "./drop-zone";
import { Incoming } from "./incoming";
import { ItemTable } from "./item-table";
import { nextWords } from "./next-words";
import type { Rows } from "./queries";
import { NewOrder } from "./new-order";
import { Rail } from "./rail";
import { OrdersScreen } from "./screen";
import { useUploads } from "./upload";

const person = makePerson();
const late = {
  ...item().order,
  due: new Date(2020, 0, 1, 12).toISOString(),
  customer_name: "Oakum Yard",
};

const several: ItemLine[] = [
  item({ id: 1, name: "Cleat" }),
  item({ id: 2, name: "Lantern", order: late, seam: [segment("closed", "leaks", "2 holes")] }),
  item({ id: 3, name: "Board", triangles: null, next: "The file is empty.", seam: [] }),
  item({ id: 4, name: "Wheel", job: job("running", { fraction: 0.4 }) }),
];

const rowsOf = (items: ItemLine[]): Rows => ({
  count: items.length,
  at: (index) => items[index],
  problem: null,
});

describe("the table of items", () => {
  const table = (part: Partial<Parameters<typeof ItemTable>[0]> = {}) => {
    const told = {
      onOpen: vi.fn(),
      onCursor: vi.fn(),
      onTake: vi.fn(),
      onSort: vi.fn(),
      onPoint: vi.fn(),
    };
    const shown = show(
      <ItemTable
        ref={{ current: null }}
        rows={rowsOf(several)}
        columns={COLUMNS.filter((one) => one.key !== "received")}
        questions={[question("size"), question("closed")]}
        sort="due"
        cursor={1}
        taken={new Map([[2, several[1]!]])}
        onTakeAll={vi.fn()}
        onInSight={vi.fn()}
        {...told}
        {...part}
      />,
    );
    return { ...shown, ...told };
  };

  it("has a head for each question and a line for each item", () => {
    table();
    const heads = screen.getAllByRole("columnheader").map((one) => one.textContent);
    expect(heads).toEqual([
      "",
      "Order",
      "Item",
      "Triangles",
      "Material",
      "Qty",
      "Due ▴",
      "With",
      "sizeclosedRelease",
      "Next",
    ]);
    expect(screen.getAllByRole("row")).toHaveLength(5);
    expect(screen.getByRole("row", { selected: true }).textContent).toContain("Lantern");
  });

  it("tells late from due, work from rest, and says each state in words", () => {
    table();
    expect(screen.getByText(/\(late\)/).textContent).toContain("1 Jan");
    expect(screen.getByLabelText("closed: leaks")).toBeTruthy();
    expect(screen.getByRole("progressbar").getAttribute("aria-valuenow")).toBe("40");
    expect(screen.getByText("The file is empty.")).toBeTruthy();
  });

  it("opens by click, chooses by focus, takes by its box", async () => {
    const { user, onOpen, onCursor, onTake } = table();
    await user.click(screen.getByText("Lantern"));
    expect(onOpen).toHaveBeenCalledWith(several[1]);
    fireEvent.focus(screen.getAllByRole("row")[1]!);
    expect(onCursor).toHaveBeenLastCalledWith(0);
    onOpen.mockClear();
    await user.click(screen.getByLabelText("Take Board"));
    expect(onTake).toHaveBeenCalledWith(2, false);
    expect(onOpen).not.toHaveBeenCalled();
  });

  it.each([
    ["Due ▴", "due", "-due"],
    ["Due ▾", "-due", "due"],
    ["Item", "due", "item"],
    ["closed", "due", "seam"],
  ] as const)("a click on %s while sorted by %s asks for %s", async (head, sort, asked) => {
    const { user, onSort } = table({ sort });
    await user.click(screen.getByRole("button", { name: head }));
    expect(onSort).toHaveBeenCalledWith(asked);
  });

  it("tells which row is come to, and that it is left", async () => {
    const { user, onPoint } = table();
    const [, , lantern] = screen.getAllByRole("row");
    await user.hover(lantern!);
    expect(onPoint.mock.calls).toEqual([[several[1]]]);
    await user.unhover(lantern!);
    expect(onPoint).toHaveBeenLastCalledWith(null);
  });

  it("a row that is not fetched yet has a place", () => {
    table({ rows: { ...rowsOf(several), count: 6 } });
    expect(screen.getAllByRole("row")).toHaveLength(7);
  });
});

describe("the address", () => {
  it.each([
    ["", { list: "open", sort: "due" }],
    ["list=you&sort=-item", { list: "you", sort: "-item" }],
    ["q=bell+buoy&customer=A%26B&due=late&assignee=me", { q: "bell buoy", customer: "A&B" }],
  ])("%s is read and written", (text, part) => {
    const asked = askedIn(new URLSearchParams(text));
    expect(asked).toMatchObject(part);
    expect(askedIn(addressOf(asked))).toEqual(asked);
  });

  it("says nothing of what is usual", () => {
    expect(addressOf({ list: "open", sort: "due", q: "" }).toString()).toBe("");
  });
});

describe("what is next", () => {
  it.each([
    [item({ next: "2 holes" }), "2 holes"],
    [
      item({ job: job("running", { step: "Walking the edges", fraction: 0.644 }) }),
      "Walking the edges, 64 %",
    ],
    [item({ job: job("waiting") }), "waits its turn"],
    [item({ job: job("waiting", { message: "Its worker is gone." }) }), "Its worker is gone."],
    [item({ job: job("done"), next: "released" }), "released"],
  ])("%#", (one, words) => expect(nextWords(one)).toBe(words));
});

describe("what is asked for after a change", () => {
  const told = { items: [], orders: [], steps: [], rules: false, all: false };
  const has = (keys: unknown[][], ...key: unknown[]) => expect(keys).toContainEqual(key);
  it("of an item: itself and the lists", () => {
    const keys = keysOf({ ...told, items: [7] });
    has(keys, "item", 7);
    has(keys, "items");
    has(keys, "counts");
    expect(keys).not.toContainEqual(["item"]);
  });
  it("of work that went on: no list", () => {
    expect(keysOf({ ...told, steps: [7] })).toEqual([["item", 7], ["jobs"]]);
  });
  it("of an order or the rules: every item", () => {
    has(keysOf({ ...told, orders: [1] }), "item");
    has(keysOf({ ...told, rules: true }), "materials");
    has(keysOf({ ...told, all: true }), "jobs");
    expect(keysOf(told)).toEqual([]);
  });
});

describe("the lists on the left", () => {
  const counts = {
    lists: [
      { key: "open", title: "To do", count: 4 },
      { key: "ready", title: "Tight, to release", count: 1 },
    ],
    customers: [{ name: "Oakum Yard", count: 4 }],
  };
  it("count their items and tell which was clicked", async () => {
    const onAsk = vi.fn();
    const { user } = show(
      <Rail counts={counts} asked={{ list: "open", customer: "Oakum Yard" }} onAsk={onAsk} />,
    );
    const lines = screen.getAllByRole("button").map((one) => one.textContent);
    expect(lines).toEqual(["To do4", "Tight, to release1", "Oakum Yard4"]);
    expect(screen.getByText("Oakum Yard").closest("button")!.getAttribute("aria-current")).toBe(
      "true",
    );
    await user.click(screen.getByText("Tight, to release"));
    expect(onAsk).toHaveBeenLastCalledWith({ list: "ready", customer: undefined });
    await user.click(screen.getByText("Oakum Yard"));
    expect(onAsk).toHaveBeenLastCalledWith({ list: "open", customer: "Oakum Yard" });
  });
});

describe("taking in", () => {
  const file = (name: string, size = 684) => {
    const made = new File(["x"], name);
    Object.defineProperty(made, "size", { value: size });
    return made;
  };

  it("takes what is dropped, and shows that it would", () => {
    const onFiles = vi.fn();
    show(<DropZone onFiles={onFiles}>items</DropZone>);
    const zone = screen.getByTestId("drop-zone");
    fireEvent.dragOver(zone, { dataTransfer: { types: ["text/plain"] } });
    expect(screen.queryByText("Let go here")).toBeNull();
    fireEvent.dragOver(zone, { dataTransfer: { types: ["Files"] } });
    expect(screen.getByText("Let go here")).toBeTruthy();
    fireEvent.dragLeave(zone);
    expect(screen.queryByText("Let go here")).toBeNull();
    const files = [file("a.stl")];
    fireEvent.drop(zone, { dataTransfer: { files } });
    expect(onFiles).toHaveBeenCalledWith(files);
  });

  const routes = {
    "GET /api/customers": [{ id: 1, name: "Oakum Yard" }],
    "GET /api/materials": [{ id: 1, key: "nylon", name: "Nylon", process: "Sintering" }],
    "GET /api/orders": [{ id: 5, number: "0418", customer_name: "Oakum Yard" }],
  };

  it("makes an order of what was asked for", async () => {
    const asked = serve({ ...routes, "POST /api/orders": { id: 9 } });
    const onClose = vi.fn();
    const { user } = show(<NewOrder files={[]} onClose={onClose} />);
    const dialog = within(await screen.findByRole("dialog"));
    expect(dialog.getByRole("heading").textContent).toBe("New order");
    expect(dialog.getByText("Take in").closest("button")!.disabled).toBe(true);
    await user.upload(dialog.getByLabelText("Files"), [file("a.stl"), file("b.obj")]);
    expect(dialog.getByRole("heading").textContent).toBe("Take in 2 files");
    await user.click(dialog.getAllByText("Leave out")[0]!);
    expect(dialog.getByRole("heading").textContent).toBe("Take in 1 file");
    await user.type(dialog.getByLabelText("Customer"), " Oakum Yard ");
    await user.selectOptions(dialog.getByLabelText("Material"), "nylon");
    await user.click(dialog.getByText("Leave out"));
    fireEvent.change(dialog.getByLabelText("Files"), { target: { files: [file("notes.txt")] } });
    expect(dialog.getByText(/are read here/)).toBeTruthy();
    await user.click(dialog.getByText("Take in"));
    await waitFor(() => expect(onClose).toHaveBeenCalled());
    const made = asked.find((one) => one.method === "POST");
    expect(made!.body).toMatchObject({ customer: "Oakum Yard" });
  });

  it("sends files that are to be one item together", async () => {
    const sent: FormData[] = [];
    class Sending {
      upload = {};
      status = 201;
      responseText = '{"id": 31}';
      onload = () => {};
      open() {}
      setRequestHeader() {}
      send(form: FormData) {
        sent.push(form);
        this.onload();
      }
    }
    vi.stubGlobal("XMLHttpRequest", Sending);
    serve(routes);
    const files = [file("crane_arm.stl"), file("crane_hook.stl"), file("notes.txt")];
    const { user } = show(<NewOrder files={files} onClose={vi.fn()} />);
    await user.selectOptions(await screen.findByLabelText("Into"), await screen.findByText(/0418/));
    await screen.findByText(/Nylon/);
    await user.selectOptions(screen.getByLabelText("Material"), "nylon");
    expect(screen.queryByLabelText("Name of the item")).toBeNull();
    await user.click(screen.getByLabelText(/one item/));
    expect(screen.getByRole("alert").textContent).toContain("Leave out what cannot be read");
    expect(screen.getByText("Take in").closest("button")!.disabled).toBe(true);
    await user.click(screen.getAllByText("Leave out").at(-1)!);
    expect(screen.getByLabelText("Name of the item").getAttribute("placeholder")).toBe("Crane");
    await user.click(screen.getByText("Take in"));
    await waitFor(() => expect(sent).toHaveLength(1));
    expect(sent[0]!.getAll("file").map((one) => (one as File).name)).toEqual([
      "crane_arm.stl",
      "crane_hook.stl",
    ]);
    expect(sent[0]!.get("name")).toBe("Crane");
    await waitFor(() => expect(useUploads.getState().uploads.at(-1)?.item).toBe(31));
    useUploads.setState({ uploads: [] });
    vi.unstubAllGlobals();
  });

  it("adds to an order that is open without asking whose it is", async () => {
    serve(routes);
    const { user } = show(<NewOrder files={[file("a.stl")]} onClose={vi.fn()} />);
    await user.selectOptions(await screen.findByLabelText("Into"), await screen.findByText(/0418/));
    expect(screen.queryByLabelText("Customer")).toBeNull();
    expect(screen.queryByLabelText("Due")).toBeNull();
  });

  it("tells what the server would not have", async () => {
    serve({ ...routes, "POST /api/orders": () => [400, { detail: "That is in the past." }] });
    const { user } = show(<NewOrder files={[file("a.stl")]} onClose={vi.fn()} />);
    await user.type(await screen.findByLabelText("Customer"), "Oakum Yard");
    await screen.findByText(/Nylon/);
    await user.selectOptions(screen.getByLabelText("Material"), "nylon");
    await user.click(screen.getByText("Take in"));
    expect((await screen.findByRole("alert")).textContent).toBe("That is in the past.");
  });

  it("keeps in sight what is on its way and what became of it", async () => {
    useUploads.setState({
      uploads: [
        { key: "1", name: "a.stl", state: "sending", fraction: 0.25, problem: "", item: null },
        {
          key: "2",
          name: "b.stl",
          state: "refused",
          fraction: 1,
          problem: "Too large.",
          item: null,
        },
        { key: "3", name: "c.stl", state: "received", fraction: 1, problem: "", item: 12 },
      ] as never,
    });
    const { user } = show(<Incoming />);
    expect(screen.getByText("25 %")).toBeTruthy();
    expect(screen.getByText("Too large.")).toBeTruthy();
    expect(screen.getByText("Open on the bench").getAttribute("href")).toBe("/items/12");
    await user.click(screen.getByText("Put away"));
    expect(useUploads.getState().uploads.every((one) => one.state === "sending")).toBe(true);
  });
});

describe("the orders screen", () => {
  const counts = {
    lists: [{ key: "all", title: "Everything", count: 4 }],
    customers: [],
  };
  const routes = {
    "GET /api/questions": [],
    "GET /api/jobs": [],
    "GET /api/customers": [],
    "GET /api/materials": [{ id: 1, key: "nylon", name: "Nylon", process: "Sintering" }],
    "GET /api/orders": [],
    "GET /api/accounts": [],
    "GET /api/items/counts": counts,
    "GET /api/items": page(...several),
  };
  beforeEach(() => useUploads.setState({ uploads: [] }));

  it("says how to begin when nothing is there", async () => {
    const none = { ...counts, lists: [{ ...counts.lists[0]!, count: 0 }] };
    serve({ ...routes, "GET /api/items": page(), "GET /api/items/counts": none });
    show(<OrdersScreen person={person} />);
    expect(await screen.findByText("No orders yet.")).toBeTruthy();
  });

  it("tells an empty list from an empty shop", async () => {
    serve({ ...routes, "GET /api/items": page() });
    show(<OrdersScreen person={person} />);
    expect(await screen.findByText("No item fits all that is asked for.")).toBeTruthy();
  });

  it("is worked by key: take, take on, act on what was taken, let go", async () => {
    const outcomes = [
      { item: 1, done: true, why: "" },
      { item: 2, done: false, why: "Odd Lervik moved this item on." },
    ];
    const asked = serve({ ...routes, "POST /api/items/together": outcomes });
    const { user } = show(<OrdersScreen person={person} />);
    await screen.findByText("Lantern");
    await user.keyboard(" {Shift>}{ArrowDown}{/Shift}");
    expect(screen.getByText("2 taken")).toBeTruthy();
    await user.keyboard("{Shift>}X{/Shift}");
    await user.type(await screen.findByLabelText("Why"), "the customer asks{Enter}");
    expect(await screen.findByText("Done for 1, not for 1")).toBeTruthy();
    expect(asked.find((one) => one.method === "POST")!.body).toEqual({
      act: "set-aside",
      reason: "the customer asks",
      items: [
        { item: 1, revision: 7 },
        { item: 2, revision: 7 },
      ],
    });
    // what was not done stays taken, with the reason beside it
    expect(screen.getByText("Lantern: Odd Lervik moved this item on.")).toBeTruthy();
    await user.keyboard("{Escape}");
    expect(screen.getAllByRole("row", { selected: false }).length).toBe(4);
  });

  it("all of the list are taken at once", async () => {
    serve(routes);
    const { user } = show(<OrdersScreen person={person} />);
    await screen.findByText("Lantern");
    await user.click(screen.getByLabelText("Take all"));
    expect(await screen.findByText("4 taken")).toBeTruthy();
    await user.keyboard("{Shift>}D{/Shift}");
    expect(await screen.findByText("1 order, with all their items.")).toBeTruthy();
  });

  it("asks the server for what was asked, and keeps it in the address", async () => {
    const asked = serve(routes);
    const { user } = show(<OrdersScreen person={person} />, "/?list=leaks");
    await screen.findByText("Lantern");
    await user.click(screen.getByRole("button", { name: "mine" }));
    await user.keyboard("/bell{Escape}");
    await waitFor(() => {
      const last = asked.filter((one) => one.path === "/api/items").at(-1)!.query;
      expect(Object.fromEntries(last)).toMatchObject({ list: "leaks", assignee: "me", q: "bell" });
    });
  });

  it("who may only look is offered nothing that changes", async () => {
    serve(routes);
    const { user } = show(<OrdersScreen person={makePerson({ may_change: false })} />);
    await screen.findByText("Lantern");
    expect(screen.queryByRole("button", { name: /New order/ })).toBeNull();
    await user.keyboard("+ ");
    expect(screen.queryByRole("dialog")).toBeNull();
    expect(screen.queryByText("1 taken")).toBeNull();
  });

  it("tells when the server cannot answer", async () => {
    serve({ ...routes, "GET /api/items": () => [503, { detail: "The database is away." }] });
    show(<OrdersScreen person={person} />);
    expect(await screen.findByText("The database is away.")).toBeTruthy();
  });
});

describe("small things", () => {
  it.each([
    ["waiting", "Waits its turn"],
    ["running", "Walking the edges"],
  ] as const)("work that is %s says so and can be stopped", async (state, words) => {
    const onCancel = vi.fn();
    const { user } = show(
      <JobProgress
        job={job(state, { step: "Walking the edges", fraction: 0.5 })}
        onCancel={onCancel}
      />,
    );
    expect(screen.getByText(words)).toBeTruthy();
    await user.click(screen.getByText("Cancel"));
    expect(onCancel).toHaveBeenCalled();
  });

  it("the list of keys shows each with what it does", () => {
    show(<KeyList open onOpenChange={vi.fn()} lines={[["M", "Mend"]]} />);
    expect(screen.getByText("M").tagName).toBe("KBD");
    expect(screen.getByText("Mend")).toBeTruthy();
  });

  it("a notice says one thing", () => {
    show(<Notice title="Nothing here.">Drop a file.</Notice>);
    expect(screen.getByText("Drop a file.")).toBeTruthy();
  });

  it("the top bar counts what runs and lets one leave", async () => {
    const asked = serve({
      "GET /api/jobs": [job("running", { item_name: "Lantern", step: "Mending", fraction: 0.3 })],
      "DELETE /api/session": { person: null },
    });
    const { user } = show(<TopBar person={person} onKeys={vi.fn()} />);
    await user.click(await screen.findByText("1 job running"));
    expect(await screen.findByText("Lantern")).toBeTruthy();
    await user.keyboard("{Escape}");
    await user.click(screen.getByText("Maren Aas"));
    await user.click(await screen.findByText("Log out"));
    await waitFor(() => expect(asked.some((one) => one.method === "DELETE")).toBe(true));
  });

  it("logging in tells the refusal and then lets in", async () => {
    let tries = 0;
    const asked = serve({
      "POST /api/session": () => (tries++ ? { person } : [400, { detail: "Not these." }]),
    });
    const { user, queries } = show(<Login />);
    await user.type(screen.getByLabelText("Name"), "maren");
    await user.type(screen.getByLabelText("Password"), "wrong{Enter}");
    expect((await screen.findByRole("alert")).textContent).toBe("Not these.");
    await user.click(screen.getByRole("button", { name: "Log in" }));
    await waitFor(() => expect(queries.getQueryData(["session"])).toEqual({ person }));
    expect(asked[0]!.body).toEqual({ username: "maren", password: "wrong" });
  });
});
