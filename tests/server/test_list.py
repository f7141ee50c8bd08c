"""The list of items: narrowed, sorted, in pages, told by summaries that are never behind."""

import threading
from datetime import timedelta

import pytest
from bench.judging import judge_all
from bench.models import Decision, ItemJob, Workpiece
from bench.seam import Segment
from dispatch.rules import Standing
from django.contrib.auth.models import User
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection, transaction
from django.test.utils import CaptureQueriesContext
from django.utils import timezone
from items.models import Summary, SummaryDue
from items.summaries import summary_of, tell_what_is_due
from makers import binary_stl, box, hollow_box
from materials.models import Machine, Material, ShopSettings
from orders.models import Customer, Item, Order
from test_path import HOLED, item_of, take_in
from working import accept, do, mend, release, report_of, work


def rows(client, **asked):
    answer = client.get("/api/items", asked)
    assert answer.status_code == 200, answer.data
    return answer.data["results"]


def names(client, **asked) -> list[str]:
    return [one["name"] for one in rows(client, **asked)]


def stood_in(order: Order, name: str, quantity: int = 1, **fields) -> Item:
    """An item whose file was never examined."""
    item = Item.objects.create(
        order=order, name=name, material=Material.objects.get(key="nylon"), quantity=quantity,
        file_name=f"{name.lower()}.stl", received_path="none", received_bytes=1, **fields,
    )  # fmt: skip
    Workpiece.objects.create(item=item)
    return item


@pytest.fixture
def several(shop):
    """Orders of two customers, due on different days."""
    now = timezone.now()
    for number, customer, days in (("0601", "Mussel Bank", 9), ("0602", "Tide Table Press", 0)):
        found, _ = Customer.objects.get_or_create(name=customer)
        due = now + timedelta(days=days, hours=-1)
        order = Order.objects.create(number=number, customer=found, due=due)
        for n, name in enumerate(("Fender", "Anchor shoe", "Bell")):
            stood_in(order, f"{name} {number}", quantity=n + 1)
    return shop


@pytest.mark.parametrize(
    ("asked", "found"),
    [
        ({}, 6),
        ({"list": "all"}, 6),
        ({"list": "open"}, 6),
        ({"list": "released"}, 0),
        ({"q": "bell"}, 2),
        ({"q": "BELL mussel"}, 1),
        ({"q": "0602 shoe.stl"}, 0),
        ({"q": "0602.stl"}, 3),
        ({"customer": "Mussel Bank"}, 3),
        ({"order": "0601", "q": "fender"}, 1),
        ({"material": "nylon"}, 6),
        ({"assignee": "nobody"}, 6),
        ({"assignee": "me"}, 0),
        ({"due": "late"}, 3),
        ({"due": "week"}, 3),
    ],
)
def test_conditions_hold_together(several, asked, found: int) -> None:
    assert len(rows(several.client, **asked)) == found


@pytest.mark.parametrize(
    ("asked", "words"),
    [({"list": "lost"}, "List"), ({"sort": "colour"}, "Sort"), ({"due": "once"}, "Due")],
)
def test_what_is_no_condition_is_refused(several, asked, words: str) -> None:
    answer = several.client.get("/api/items", asked)
    assert answer.status_code == 400
    assert words in answer.data["detail"]


@pytest.mark.parametrize(
    ("sort", "first"),
    [
        ("item", "Anchor shoe 0601"),
        ("-item", "Fender 0602"),
        ("due", "Fender 0602"),
        ("-due", "Fender 0601"),
        ("-quantity", "Bell 0601"),
        ("customer", "Fender 0601"),
        ("-order", "Fender 0602"),
        ("triangles", "Fender 0601"),
        ("assignee", "Bell 0602"),
        ("seam", "Fender 0601"),
    ],
)
def test_every_column_sorts(several, sort: str, first: str) -> None:
    Item.objects.filter(name="Bell 0602").update(assignee=several.person)
    assert names(several.client, sort=sort)[0] == first


def test_pages_hold_every_item_once(several) -> None:
    answer = several.client.get("/api/items", {"size": 4, "sort": "material"}).data
    assert answer["count"] == 6
    more = several.client.get("/api/items", {"size": 4, "sort": "material", "page": 2}).data
    got = [one["id"] for one in [*answer["results"], *more["results"]]]
    assert sorted(got) == sorted(Item.objects.values_list("pk", flat=True))
    assert several.client.get("/api/items", {"page": 3, "size": 4}).status_code == 404


def test_counts_are_those_of_the_lists(several) -> None:
    Item.objects.filter(name__startswith="Fender").update(set_aside=True)
    told = several.client.get("/api/items/counts").data
    for one in told["lists"]:
        assert one["count"] == len(rows(several.client, list=one["key"])), one
    assert {c["name"]: c["count"] for c in told["customers"]} == {
        "Mussel Bank": 2,
        "Tide Table Press": 2,
    }


def test_the_list_asks_a_fixed_number_of_times_and_loads_no_reports(shop) -> None:
    def asked() -> list[str]:
        with CaptureQueriesContext(connection) as queries:
            assert rows(shop.client)[-1]["seam"][-1]["text"]
        return [one["sql"] for one in queries]

    take_in(shop, binary_stl(hollow_box()))
    tell_what_is_due()
    one = asked()
    for _ in range(3):
        take_in(shop, binary_stl(hollow_box()))
    tell_what_is_due()
    assert len(asked()) == len(one)
    for item in Item.objects.values_list("pk", flat=True):
        accept(shop, item, "sealed-voids", "to float")
    with CaptureQueriesContext(connection) as queries:
        assert tell_what_is_due() == 4
    reports = [q for q in queries if '"bench_examination"."report"' in q["sql"]]
    assert len(reports) == 1
    several = asked()
    assert not any('."report"' in sql or '."account"' in sql for sql in several)
    told = rows(shop.client)
    assert {s["state"] for line in told for s in line["seam"] if s["question"] == "inside"} == {
        "waived"
    }


def _as_it_stands(shop, item: int) -> dict:
    told = shop.client.get(f"/api/items/{item}").json()
    return {name: told[name] for name in ("seam", "ready", "released")}


def test_a_summary_is_never_behind(shop, lead) -> None:
    """After each kind of change, the list tells what the bench does."""

    def agree() -> dict:
        line = next(x for x in shop.client.get("/api/items").json()["results"] if x["id"] == item)
        assert {name: line[name] for name in ("seam", "ready", "released")} == _as_it_stands(
            shop, item
        )
        assert not SummaryDue.objects.exists()
        return line

    item = take_in(shop, HOLED)
    agree()
    mend(shop, item)
    assert agree()["job"]["kind"] == "mend"
    work()
    line = agree()
    assert line["job"] is None
    assert line["ready"]
    do(shop, item, "set-aside", aside=True, reason="the customer asks")
    assert agree()["next"] == "set aside"
    do(shop, item, "set-aside", aside=False, reason="goes on")
    do(shop, item, "current", to=item_of(shop, item)["revisions"][0]["id"])
    agree()
    do(shop, item, "current", to=item_of(shop, item)["revisions"][1]["id"])
    agree()
    release(shop, item)
    work()
    line = agree()
    assert line["released"]
    held = item_of(shop, item)["releases"][0]["id"]
    shop.client.post(f"/api/releases/{held}/withdraw", {"reason": "wrong colour"})
    agree()
    rules = {**Material.objects.get(key="nylon").rules, "wall_free": 1.1}
    lead.put("/api/materials/nylon", {"rules": rules, "why": "thinner powder"})
    assert not agree()["ready"]
    assert judge_all() == 1
    assert agree()["judging"]
    work()
    assert agree()["judging"] is None


@pytest.mark.parametrize(
    "change",
    [
        lambda: Machine.objects.create(name="Skerry", process="Filament", x=9, y=9, z=9),
        lambda: ShopSettings.objects.create(values={"near_gap": 0.2}),
        lambda: Material.objects.filter(key="nylon").update(name="Nylon"),
    ],
)
def test_what_holds_for_all_makes_every_summary_due_but_those_released(several, change) -> None:
    tell_what_is_due()
    gone = Item.objects.get(name="Bell 0601")
    Summary.objects.filter(item=gone).update(released=timezone.now())
    change()
    due = set(SummaryDue.objects.values_list("item_id", flat=True))
    assert due == set(Item.objects.exclude(pk=gone.pk).values_list("pk", flat=True))


def test_a_change_while_summaries_are_told_is_told_afterwards(several, monkeypatch) -> None:
    item = Item.objects.get(name="Bell 0601")

    def told_late(one: Item, stands: Standing) -> Summary:
        if one.pk == item.pk and not changed:
            changed.append(True)
            # somebody else, between what was read and what is written of it
            other = threading.Thread(target=_set_aside, args=(item.pk,))
            other.start()
            other.join()
        return summary_of(one, stands)

    changed: list[bool] = []
    monkeypatch.setattr("items.summaries.summary_of", told_late)
    tell_what_is_due()
    assert changed
    assert SummaryDue.objects.filter(item_id=item.pk).exists()
    assert next(x for x in rows(several.client) if x["id"] == item.pk)["next"] == "set aside"


def test_an_item_that_comes_in_while_the_list_is_read_is_in_the_next(several, monkeypatch) -> None:
    tell_what_is_due()
    late = stood_in(several.order, "Late comer")
    with monkeypatch.context() as moment:
        moment.setattr("items.views.tell_what_is_due", lambda: 0)
        assert len(rows(several.client, list="all")) == 6
        assert len(rows(several.client)) == 6
        told = several.client.get("/api/items/counts").data
        assert {one["key"]: one["count"] for one in told["lists"]}["open"] == 6
    assert late.name in names(several.client)


def _set_aside(pk: int) -> None:
    try:
        Item.objects.filter(pk=pk).update(set_aside=True)
    finally:
        connection.close()


def test_what_was_rolled_back_makes_nothing_due(several) -> None:
    tell_what_is_due()
    with transaction.atomic():
        Item.objects.update(set_aside=True)
        assert SummaryDue.objects.count() == 6
        transaction.set_rollback(True)
    assert not SummaryDue.objects.exists()


@pytest.mark.parametrize(
    ("states", "problem", "aside", "told"),
    [
        (("tight", "leaks", "your call"), "", False, ("about 1", 1, True, True)),
        (("tight", "not run", "leaks"), "", False, ("about 2", 1, True, False)),
        (("not run", "tight", "tight"), "", False, ("about 0", 0, False, False)),
        (("tight", "tight", "waived"), "", False, ("tight, ready to release", 4, False, False)),
        (("tight", "leaks", "tight"), "", True, ("set aside", 1, False, False)),
        (("not run", "not run", "not run"), "Cut off.", False, ("Cut off.", 0, False, True)),
    ],
)  # fmt: skip
def test_what_a_summary_says(several, states, problem, aside, told) -> None:
    item = Item.objects.get(name="Bell 0601")
    item.set_aside = aside
    item.workpiece.problem = problem
    item.workpiece.current_id = None if problem else 1
    seam = [Segment(f"q{n}", f"Q{n}", state, f"about {n}") for n, state in enumerate(states)]
    seam.append(Segment("release", "Release", "tight", ""))
    found = summary_of(item, Standing(seam, None, False))
    assert (found.next, found.step, found.leaks, found.calls) == told


def together(shop, act: str, items: list[Item], **given):
    seen = [{"item": one.pk, "revision": one.workpiece.current_id} for one in items]
    return shop.client.post("/api/items/together", {"act": act, "items": seen, **given})


def test_one_action_for_several(several, lead) -> None:
    items = list(Item.objects.order_by("pk"))
    liv = User.objects.get(username="liv")
    answer = together(several, "assign", items[:4], assignee="liv")
    assert [one["done"] for one in answer.data] == [True] * 4
    assert names(several.client, assignee="liv") == names(lead, assignee="me")
    assert set(Item.objects.filter(assignee=liv)) == set(items[:4])
    due = timezone.now() + timedelta(days=3)
    answer = together(several, "due", items[:2], due=due.isoformat())
    assert {one.order.due for one in Item.objects.filter(order__number="0601")} == {due}
    answer = together(several, "set-aside", items[2:4], reason="the customer asks")
    assert [one["done"] for one in answer.data] == [True, True]
    again = together(several, "set-aside", items[3:5], reason="the customer asks")
    assert [one["done"] for one in again.data] == [False, True]
    assert again.data[0]["why"]
    assert Decision.objects.filter(act="set-aside").count() == 3


def test_of_several_each_stands_for_itself(shop) -> None:
    two = [take_in(shop, HOLED), take_in(shop, HOLED)]
    items = [Item.objects.select_related("workpiece").get(pk=one) for one in two]
    mend(shop, two[0])
    work()  # the first has moved on since it was seen
    items += [stood_in(shop.order, "Never read")]
    answer = together(shop, "mend", items)
    assert [one["done"] for one in answer.data] == [False, True, False]
    assert "Ane Vik moved this item on" in answer.data[0]["why"]
    assert "no mesh" in answer.data[2]["why"]
    # a crowd waits where nobody's click does
    assert ItemJob.objects.get(state="waiting").queue == "crowd"
    work()
    assert ItemJob.objects.filter(kind="mend", state="done").count() == 2


@pytest.mark.parametrize(("given", "times"), [({"factor": 2.5}, 2.5), ({"unit": "in"}, 25.4)])
def test_siblings_stay_in_proportion(shop, given, times: float) -> None:
    two = [take_in(shop, binary_stl(box(size))) for size in (20, 8)]
    items = [Item.objects.select_related("workpiece").get(pk=one) for one in two]
    answer = together(shop, "size", items, **given)
    assert [one["done"] for one in answer.data] == [True, True]
    for job in ItemJob.objects.filter(state="waiting"):
        assert job.queue == "crowd"
        assert work(job.pk).state == "done"
    sides = [report_of(one)["size_mm"][0] for one in two]
    assert sides == pytest.approx([20 * times, 8 * times])


def test_siblings_are_sized_while_they_are_taken_in(shop) -> None:
    one, other = (
        shop.client.post(
            f"/api/orders/{shop.order.id}/items",
            {
                "file": SimpleUploadedFile(f"part{size}.stl", binary_stl(box(size))),
                "material": "nylon",
                "quantity": 1,
            },
            format="multipart",
        ).data["id"]
        for size in (20, 8)
    )
    items = [Item.objects.select_related("workpiece").get(pk=pk) for pk in (one, other)]
    assert all(item.workpiece.current_id is None for item in items)
    # the last one counts
    for factor in (3, 1.5):
        answer = together(shop, "size", items, factor=factor)
        assert [told["done"] for told in answer.data] == [True, True], answer.data
    for _ in range(2):
        for job in ItemJob.objects.filter(state="waiting").order_by("pk"):
            assert work(job.pk).state == "done"
    assert [report_of(pk)["size_mm"][0] for pk in (one, other)] == pytest.approx([30, 12])
    assert [item.revisions.count() for item in items] == [2, 2]
    assert ItemJob.objects.filter(kind="operate").count() == 2
    # once they are there, what was seen counts
    answer = together(shop, "size", items, factor=2)
    assert [told["done"] for told in answer.data] == [False, False]


def test_what_cannot_be_read_is_not_sized(shop) -> None:
    told = {
        "file": SimpleUploadedFile("not_a_mesh.stl", b"solid\n" * 20),
        "material": "nylon",
        "quantity": 1,
    }
    pk = shop.client.post(f"/api/orders/{shop.order.id}/items", told, format="multipart").data["id"]
    items = [Item.objects.select_related("workpiece").get(pk=pk)]
    assert together(shop, "size", items, factor=2).data[0]["done"]
    assert work().state == "refused"
    assert not ItemJob.objects.filter(kind="operate").exists()
    again = together(shop, "size", items, factor=2).data[0]
    assert not again["done"]
    assert "has not been read" in again["why"]


@pytest.mark.parametrize(
    ("act", "given", "words"),
    [
        ("material", {"reason": "asked for"}, "Material"),
        ("material", {"material": "nylon"}, "Reason"),
        ("set-aside", {}, "Reason"),
        ("due", {}, "Due"),
        ("assign", {"assignee": "nobody-here"}, "nobody called"),
        ("paint", {}, "Act"),
        ("size", {}, "Factor"),
        ("size", {"unit": "in", "factor": 2}, "Factor"),
        ("size", {"unit": "furlong"}, "Unit"),
    ],
)
def test_what_an_action_lacks_is_said(several, act: str, given, words: str) -> None:
    answer = together(several, act, list(Item.objects.all()), **given)
    assert answer.status_code == 400
    assert words in answer.data["detail"]


def test_orders_notes_and_comments(several, lead) -> None:
    order = Order.objects.get(number="0601")
    address = f"/api/orders/{order.pk}"
    assert several.client.patch(address, {"note": "by boat", "note_seen": ""}).status_code == 200
    late = lead.patch(address, {"note": "by cart", "note_seen": ""})
    assert late.status_code == 409
    assert "by boat" in late.data["detail"]
    assert lead.patch(address, {"note": "by cart", "note_seen": "by boat"}).status_code == 200
    assert lead.patch(address, {"due": "2031-02-03T10:00:00Z"}).data["note"] == "by cart"
    item = order.items.first()
    said = several.client.post(f"/api/items/{item.pk}/comments", {"text": "asked them twice"})
    assert said.status_code == 201
    told = item_of(several, item.pk)
    assert [(c["by"], c["text"]) for c in told["comments"]] == [("Ane Vik", "asked them twice")]
    trail = [one["text"] for one in several.client.get(f"/api/items/{item.pk}/trail").data]
    assert "comment: “asked them twice”" in trail
    assert several.client.post(f"/api/items/{item.pk}/comments", {"text": ""}).status_code == 400
    given = several.client.post(f"/api/items/{item.pk}/assignee", {"assignee": "liv"})
    assert given.status_code == 204
    assert item_of(several, item.pk)["assignee_name"] == "Liv Sund"
    several.client.post(f"/api/items/{item.pk}/assignee", {"assignee": ""})
    assert item_of(several, item.pk)["assignee"] == ""


def test_a_report_is_cached_and_nothing_else(shop) -> None:
    item = take_in(shop, HOLED)
    told = item_of(shop, item)
    revision = told["revisions"][0]
    address = f"/api/revisions/{revision['id']}"
    one = shop.client.get(address, {"examination": revision["examination"]})
    assert "immutable" in one["Cache-Control"]
    for path in (address, f"/api/items/{item}", "/api/items", "/api/session"):
        assert shop.client.get(path)["Cache-Control"] == "private, no-store"
