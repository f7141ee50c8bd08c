"""What the API answers to what makes no sense, to two at once, and to size questions."""

import threading
from types import SimpleNamespace

import numpy as np
import pytest
from bench.models import Decision, Revision
from caulkcore import Mesh
from django.db import connections
from harbour import breakers as b
from makers import binary_stl, box, sphere
from orders.models import Item
from rest_framework.test import APIClient
from test_path import HOLED, item_of, states, take_in, upload
from work.models import Job
from working import TEXT, accept, do, mend, operate, release, work


@pytest.mark.parametrize(
    ("method", "path"),
    [
        ("get", "/api/items/999"),
        ("get", "/api/items/999/received"),
        ("get", "/api/revisions/999"),
        ("get", "/api/revisions/999/skin"),
        ("get", "/api/examinations/999/marks"),
        ("get", "/api/revisions/999/changes"),
        ("get", "/api/letters/999"),
        ("get", "/api/releases/999/file"),
        ("get", "/api/releases/999/letter"),
        ("post", "/api/jobs/999/cancel"),
        ("get", "/api/nothing/here"),
        ("get", "/api/items/abc"),
    ],
)
def test_what_is_not_there_is_404(shop, method: str, path: str) -> None:
    assert getattr(shop.client, method)(path).status_code == 404


@pytest.mark.parametrize(
    ("body", "words"),
    [
        ({}, "Operation"),
        ({"operation": "polish"}, "polish"),
        ({"operation": "fill-holes", "parameters": {"gloss": 3}}, "gloss"),
        ({"operation": "fill-holes", "parameters": {"places": "all"}}, "Places"),
        ({"operation": "fill-holes", "parameters": {"places": [True]}}, "Places"),
        ({"operation": "fill-holes", "parameters": {"sheets": 1}}, "sheets"),
        ({"operation": "set-unit", "parameters": {"unit": "furlong"}}, "Unit"),
    ],
)
def test_operations_that_make_no_sense_are_refused_at_once(shop, body, words: str) -> None:
    item = take_in(shop, HOLED)
    answer = do(shop, item, "operate", **body)
    assert answer.status_code == 400
    assert words in answer.data["detail"]
    assert not Job.objects.filter(kind="operate").exists()


@pytest.mark.parametrize("places", [[0], [99], [-1]])
def test_places_that_are_not_there_are_refused_by_the_job(shop, places) -> None:
    item = take_in(shop, HOLED)
    assert operate(shop, item, "fill-holes", places=places).status_code == 202
    job = work()
    assert job.state == "refused"
    assert "place" in job.message.lower()
    assert len(item_of(shop, item)["revisions"]) == 1


def test_an_item_that_cannot_be_read_offers_no_work(shop) -> None:
    answer = upload(shop, b"solid nothing\n" * 20)
    item = answer.data["id"]
    assert work().state == "refused"
    for path, body in (
        ("mend", {}),
        ("operate", {"operation": "fill-holes"}),
        ("release", {"format": "stl", "letter": TEXT, "rests_on": "what I read"}),
        ("decisions", {"kind": "debris", "reason": "as it is", "listed": 1, "examination": 1}),
        ("material", {"material": "nylon", "reason": "as it is"}),
        ("apart", {"pieces": [1], "reason": "as it is"}),
        ("judge", {}),
    ):
        refused = do(shop, item, path, revision=0, **body)
        assert refused.status_code == 409, path
        assert refused.data["detail"].endswith(".")
    assert do(shop, item, "current", revision=0, to=0).status_code == 404


def test_mending_what_is_tight_is_refused_and_makes_no_revision(shop) -> None:
    item = take_in(shop, binary_stl(box()))
    mend(shop, item)
    job = work()
    assert (job.state, job.message) == ("refused", "There is nothing to mend.")
    assert Revision.objects.count() == 1


@pytest.mark.parametrize("method", ["put", "patch", "delete"])
def test_revisions_are_never_changed_from_outside(shop, method: str) -> None:
    current = item_of(shop, take_in(shop, HOLED))["current"]
    change = getattr(shop.client, method)
    assert change(f"/api/revisions/{current}", {}, format="json").status_code == 405


def at_once(*works) -> list:
    """Do things at the same moment, each with a connection of its own."""
    start = threading.Barrier(len(works))
    answers: list = [None] * len(works)

    def go(i: int, do) -> None:
        start.wait()
        try:
            answers[i] = do()
        finally:
            connections.close_all()

    threads = [threading.Thread(target=go, args=(i, do)) for i, do in enumerate(works)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join(60)
    return answers


def client_of(shop) -> APIClient:
    client = APIClient()
    client.force_login(shop.person)
    return client


def test_two_who_mend_at_once_start_one_job(shop) -> None:
    item = take_in(shop, HOLED)
    clients = [client_of(shop) for _ in range(4)]
    seen = {"revision": item_of(shop, item)["current"]}
    answers = at_once(*(lambda c=c: c.post(f"/api/items/{item}/mend", seen) for c in clients))
    assert sorted(a.status_code for a in answers) == [202, 409, 409, 409]
    assert work().state == "done"
    assert len(item_of(shop, item)["revisions"]) == 2


def test_the_same_file_sent_by_two_at_once_is_stored_once(shop) -> None:
    clients = [client_of(shop) for _ in range(3)]

    def send(client):
        return upload(SimpleNamespace(client=client, order=shop.order), HOLED)

    answers = at_once(*(lambda c=c: send(c) for c in clients))
    assert [a.status_code for a in answers] == [201] * 3
    assert len(set(Item.objects.values_list("received_path", flat=True))) == 1


def test_orders_made_at_once_have_numbers_of_their_own(shop) -> None:
    body = {"customer": "Spar & Sail", "due": "2026-12-01T16:00:00Z"}
    clients = [client_of(shop) for _ in range(4)]
    answers = at_once(*(lambda c=c: c.post("/api/orders", body) for c in clients))
    assert [a.status_code for a in answers] == [201] * 4
    assert sorted(a.data["number"] for a in answers) == ["0501", "0502", "0503", "0504"]


def test_a_worker_that_takes_a_job_already_taken_leaves_it(shop) -> None:
    item = take_in(shop, HOLED)
    job = mend(shop, item).data["id"]
    states_ = at_once(lambda: work(job).state, lambda: work(job).state)
    assert "done" in states_
    assert Revision.objects.filter(item=item).count() == 2


def scaled(mesh: Mesh, to: float) -> bytes:
    return binary_stl(mesh.scaled(to / float(mesh.size.max())))


@pytest.mark.parametrize(
    ("longest", "kind", "state"),
    [(100, None, "tight"), (500, "unit-suspect", "your call"), (4, "unit-suspect", "your call")],
)
def test_a_size_in_doubt_is_a_call(shop, longest: float, kind, state: str) -> None:
    item = take_in(shop, scaled(sphere(), longest))
    assert states(shop, item)["size"] == state
    revision = shop.client.get(f"/api/revisions/{item_of(shop, item)['current']}").data
    found = {f["kind"] for f in revision["report"]["findings"]}
    assert found == ({kind} if kind else set())


def test_a_unit_that_was_set_leaves_the_size_to_be_judged(shop) -> None:
    """Half a metre long for certain: no longer in doubt, but too large for the machines."""
    item = take_in(shop, scaled(sphere(), 0.5))
    operate(shop, item, "set-unit", unit="m")
    work()
    told = item_of(shop, item)
    segment = next(s for s in told["seam"] if s["question"] == "size")
    assert segment["state"] == "your call"
    assert release(shop, item).status_code == 409
    assert accept(shop, item, "too-large", "Made in two halves.").status_code == 201
    assert states(shop, item)["size"] == "waived"
    assert Decision.objects.get().reason == "Made in two halves."


def test_pieces_come_with_the_report(shop) -> None:
    mesh = b.soup(box(40), box(4), box(0.2, (30, 0, 0)))
    item = take_in(shop, binary_stl(mesh))
    report = shop.client.get(f"/api/revisions/{item_of(shop, item)['current']}").data["report"]
    assert [(p["shell"], p["what"], p["within"]) for p in report["pieces"]] == [
        (0, "outer skin", -1),
        (1, "buried solid", 0),
        (2, "debris", -1),
    ]
    assert report["shells"] == 3


def test_notes_do_not_stand_in_the_way(shop) -> None:
    item = take_in(shop, binary_stl(b.soup(box(), box(10, (20, 0, 0)))))
    report = shop.client.get(f"/api/revisions/{item_of(shop, item)['current']}").data["report"]
    assert [(f["kind"], f["severity"]) for f in report["findings"]] == [("loose-parts", "note")]
    assert states(shop, item)["solid"] == "tight"
    assert release(shop, item, "3mf").status_code == 202
    assert work().state == "done"


def test_a_near_gap_waits_for_a_person(shop) -> None:
    item = take_in(shop, binary_stl(b.soup(box(), box(10, (10.02, 0, 0)))))
    assert states(shop, item)["solid"] == "your call"
    assert accept(shop, item, "near-gaps", "  ").status_code == 400
    assert accept(shop, item, "near-gaps", "They turn on each other.").status_code == 201
    assert states(shop, item)["solid"] == "waived"


def test_many_places_travel_as_a_list_and_one_more_line(shop) -> None:
    rng = np.random.default_rng(1)
    middles = rng.uniform(0, 200, size=(2500, 1, 3))
    corners = middles + rng.normal(0, 0.3, size=(2500, 3, 3))
    soup = Mesh(corners.reshape(-1, 3), np.arange(7500).reshape(-1, 3))
    item = take_in(shop, binary_stl(soup))
    report = shop.client.get(f"/api/revisions/{item_of(shop, item)['current']}").data["report"]
    sheets = next(f for f in report["findings"] if f["kind"] == "open-sheets")
    assert sheets["places"] == 2500
    assert len(sheets["spots"]) == 2001
    assert sheets["spots"][-1]["title"] == "500 more open sheets"
    words = next(s for s in item_of(shop, item)["seam"] if s["question"] == "closed")["text"]
    assert "2,500 open sheets" in words


def test_pieces_keep_the_names_of_the_file_through_work(shop) -> None:
    lines, first = [], 1
    for name, mesh in (("buoy", b.without(sphere(8, 2), np.array([3]))), ("crate", box(4))):
        lines.append(f"o {name}")
        shifted = mesh.vertices + (np.array([30.0, 0, 0]) if name == "crate" else 0)
        lines += [f"v {x} {y} {z}" for x, y, z in shifted.tolist()]
        lines += [f"f {i} {j} {k}" for i, j, k in (mesh.faces + first).tolist()]
        first += len(mesh.vertices)
    item = take_in(shop, "\n".join(lines).encode(), "harbour.obj")

    def names() -> list[str]:
        current = item_of(shop, item)["current"]
        report = shop.client.get(f"/api/revisions/{current}").data["report"]
        return [p["name"] for p in report["pieces"]]

    assert names() == ["buoy", "crate"]
    mend(shop, item)
    assert work().state == "done"
    assert names() == ["buoy", "crate"]
    operate(shop, item, "set-unit", unit="cm")
    assert work().state == "done"
    assert names() == ["buoy", "crate"]
