// @vitest-environment jsdom
import { fireEvent, screen, waitFor, within } from "@testing-library/react";
import { beforeEach, describe, expect, it, vi } from "vitest";
import type { ItemLine } from "../api/client";
import { serve, show } from "../tests/dom";
import { item, job, question, segment } from "../tests/makers";
import { Login } from "../session/login";
import { Notice } from "../ui/notice";
import { JobProgress } from "../ui/progress";
import { KeyList } from "../ui/key-list";
import { TopBar } from "../ui/top-bar";
import { DropZone } from "./drop-zone";
import { Incoming } from "./incoming";
import { ItemTable } from "./item-table";
import { NewOrder } from "./new-order";
import { Rail } from "./rail";
import { OrdersScreen } from "./screen";
import { useUploads } from "./upload";

const person = { name: "Maren Aas", lead: false, username: "maren" } as never;
const late = {
  ...item().order,
  due: new Date(2020, 0, 1, 12).toISOString(),
  customer_name: "Oakum Yard",
};

const several: ItemLine[] = [
  item({ id: 1, name: "Cleat" }),
  item({ id: 2, name: "Lantern", order: late, seam: [segment("closed", "leaks", "2 holes")] }),
  item({ id: 3, name: "Board", triangles: null, problem: "The file is empty.", seam: [] }),
  item({ id: 4, name: "Wheel", job: job("running", { fraction: 0.4 }) }),
];

describe("the table of items", () => {
  const table = () => {
    const onOpen = vi.fn();
    const onChoose = vi.fn();
    const questions = [question("size"), question("closed")];
    const shown = show(
      <ItemTable
        items={several}
        questions={questions}
        chosen={2}
        onChoose={onChoose}
        onOpen={onOpen}
      />,
    );
    return { ...shown, onOpen, onChoose };
  };

  it("has a head for each question and a line for each item", () => {
    table();
    const heads = screen.getAllByRole("columnheader").map((one) => one.textContent);
    expect(heads).toEqual(["Order", "Item", "Material", "Qty", "Due", "sizeclosedRelease", "Next"]);
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

  it("opens by click and chooses by focus", async () => {
    const { user, onOpen, onChoose } = table();
    await user.click(screen.getByText("Lantern"));
    expect(onOpen).toHaveBeenCalledWith(several[1]);
    fireEvent.focus(screen.getAllByRole("row")[1]!);
    expect(onChoose).toHaveBeenLastCalledWith(1);
  });
});

describe("the lists on the left", () => {
  it("count their items and tell which was clicked", async () => {
    const onList = vi.fn();
    const onCustomer = vi.fn();
    const { user } = show(
      <Rail
        items={several}
        list="all"
        onList={onList}
        customer="Oakum Yard"
        onCustomer={onCustomer}
      />,
    );
    const lines = screen.getAllByRole("button").map((one) => one.textContent);
    expect(lines.at(-1)).toBe("Oakum Yard4");
    expect(screen.getByText("Oakum Yard").closest("button")!.ariaCurrent ?? "true").toBe("true");
    await user.click(screen.getAllByRole("button")[0]!);
    expect(onList).toHaveBeenCalled();
    await user.click(screen.getByText("Oakum Yard"));
    expect(onCustomer).toHaveBeenCalledWith("Oakum Yard");
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
    show(<DropZone onFiles={onFiles} />);
    const zone = screen.getByTestId("drop-zone");
    fireEvent.dragOver(zone);
    expect(zone.className).toContain("border-blue");
    fireEvent.dragLeave(zone);
    expect(zone.className).not.toContain("border-blue");
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
  const routes = {
    "GET /api/questions": [],
    "GET /api/jobs": [],
    "GET /api/customers": [],
    "GET /api/materials": [],
    "GET /api/orders": [],
  };
  beforeEach(() => useUploads.setState({ uploads: [] }));

  it("says how to begin when nothing is there", async () => {
    serve({ ...routes, "GET /api/items": [] });
    show(<OrdersScreen person={person} />);
    expect(await screen.findByTestId("drop-zone")).toBeTruthy();
    expect(screen.queryAllByRole("row").length).toBeLessThanOrEqual(1);
  });

  it("is worked by key: down, open", async () => {
    serve({ ...routes, "GET /api/items": several });
    const { user } = show(<OrdersScreen person={person} />);
    await screen.findByText("Lantern");
    await user.keyboard("?");
    expect(await screen.findByRole("dialog")).toBeTruthy();
    await user.keyboard("{Escape}");
    await waitFor(() => expect(screen.queryByRole("dialog")).toBeNull());
    await user.keyboard("n");
    expect(await screen.findByRole("dialog")).toBeTruthy();
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
