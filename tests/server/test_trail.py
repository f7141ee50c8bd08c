"""The trail: what happened, by whom, kept by the database where nobody can change it."""

import csv

import pytest
from bench.models import Decision, Examination, Revision
from dispatch.models import Release, Withdrawal
from django.db import DatabaseError, connection, transaction
from makers import binary_stl, box, hollow_box
from materials.models import Edition, Material, ShopSettings
from people.models import Visit
from rest_framework.test import APIClient
from test_path import HOLED, item_of, take_in
from working import accept, do, mend, release, work


def trail(client, path: str) -> list[str]:
    answer = client.get(path)
    assert answer.status_code == 200
    return [f"{one['by'] or '-'}: {one['text']}" for one in answer.data]


def test_all_that_happens_to_an_item_is_told_in_order(shop) -> None:
    item = take_in(shop, binary_stl(hollow_box()))
    made = accept(shop, item, "sealed-voids", "to float").data["id"]
    shop.client.post(f"/api/decisions/{made}/withdraw", {"reason": "it sank"}, format="json")
    accept(shop, item, "sealed-voids", "to float after all")
    release(shop, item)
    work()
    key = item_of(shop, item)["releases"][0]["id"]
    shop.client.post(f"/api/releases/{key}/withdraw", {"reason": "wrong ship"}, format="json")
    aside = {"aside": True, "reason": "not paid"}
    do(shop, item, "set-aside", revision=0, **aside)
    told = trail(shop.client, f"/api/items/{item}/trail")[::-1]
    void = "1 sealed void accepted: Sealed void, 0.06 cm³ (longest side 4.0 mm)"
    expected = [
        "item Part made: 1 in Sintered nylon, file part.stl",
        "revision 0, “as received”: 24 triangles",
        "revision 0 examined by the sheet of Sintered nylon: no leak",
        f"{void}: “to float”",
        f"taken back: {void}: “it sank”",
        f"{void}: “to float after all”",
        "revision 0 released as 0500_part_nylon_1x_r0.stl",
        "release of 0500_part_nylon_1x_r0.stl withdrawn: “wrong ship”",
        "item Part changed: 1 in Sintered nylon, file part.stl, set aside",
        "set aside: “not paid”",
    ]
    assert told == [f"Ane Vik: {one}" for one in expected]


def test_what_a_worker_enters_is_told_as_the_askers_doing(shop, lead) -> None:
    item = take_in(shop, HOLED)
    seen = item_of(shop, item)["current"]
    lead.post(f"/api/items/{item}/mend", {"revision": seen}, format="json")
    work()
    told = trail(shop.client, f"/api/items/{item}/trail")
    assert told[1] == "Liv Sund: revision 1, “mended”: 1,280 triangles"
    do(shop, item, "current", to=0)
    assert trail(shop.client, f"/api/items/{item}/trail")[0] == "Ane Vik: back from revision 1 to 0"


def test_the_shops_trail_is_the_leads(shop, lead) -> None:
    assert shop.client.get("/api/trail").status_code == 403
    client = APIClient()
    client.post("/api/session", {"username": "ane", "password": "pw"})
    APIClient().post("/api/session", {"username": "ane", "password": "no"})
    client.delete("/api/session")
    lead.put("/api/shop", {"values": {"near_gap": 0.2}}, format="json")
    machine = {"name": "North dock", "process": "Sintering", "x": 300, "y": 300, "z": 400}
    made = lead.post("/api/machines", machine, format="json").data["id"]
    lead.delete(f"/api/machines/{made}")
    rules = {**Material.objects.get(key="nylon").rules, "wall_free": 1.1}
    lead.put("/api/materials/nylon", {"rules": rules, "why": "thinner powder"}, format="json")
    told = trail(lead, "/api/trail")
    for words in (
        "Ane Vik: ane logged in",
        "-: somebody was refused who gave the name ane",
        "Ane Vik: ane logged out",
        "Liv Sund: machine North dock made: Sintering, 300 × 300 × 400 mm",
        "Liv Sund: machine North dock removed: Sintering, 300 × 300 × 400 mm",
        "Liv Sund: edition 2 of the sheet of Sintered nylon holds: “thinner powder”",
        "-: account liv made: Liv Sund, shop lead",
    ):
        assert words in told
    assert any("near_gap 0.2" in one for one in told)


def test_pages_go_on_where_the_last_one_ended(shop, lead, monkeypatch) -> None:
    monkeypatch.setattr("trail.views._PAGE", 3)
    take_in(shop, HOLED)
    whole, before = [], ""
    while page := lead.get("/api/trail", {"before": before} if before else {}).data:
        whole += [one["text"] for one in page]
        before = page[-1]["at"]
    rows = b"".join(lead.get("/api/trail/file").streaming_content).decode()
    table = list(csv.DictReader(rows.splitlines()))
    assert [one["text"] for one in table] == whole
    assert len(whole) > 5


def test_it_is_taken_away_as_a_table(shop) -> None:
    item = take_in(shop, binary_stl(hollow_box()))
    accept(shop, item, "sealed-voids", "=1+1 is what they say")
    answer = shop.client.get(f"/api/items/{item}/trail/file")
    assert "attachment" in answer["Content-Disposition"]
    rows = list(csv.DictReader(b"".join(answer.streaming_content).decode().splitlines()))
    assert rows[0]["by"] == "Ane Vik"
    assert rows[0]["item"] == str(item)
    assert not any(one["text"].startswith("=") for one in rows)


@pytest.mark.parametrize(
    "model",
    [Decision, Revision, Examination, Release, Withdrawal, Edition, ShopSettings, Visit],
    ids=lambda one: one.__name__,
)
@pytest.mark.parametrize("what", ["row", "event"])
def test_the_database_lets_nobody_change_what_happened(shop, lead, model, what: str) -> None:
    item = take_in(shop, binary_stl(box(20)))
    do(shop, item, "set-aside", revision=0, aside=True, reason="not paid")
    do(shop, item, "set-aside", revision=0, aside=False, reason="paid")
    release(shop, item)
    work()
    key = item_of(shop, item)["releases"][0]["id"]
    shop.client.post(f"/api/releases/{key}/withdraw", {"reason": "wrong ship"}, format="json")
    lead.put("/api/shop", {"values": {"near_gap": 0.2}}, format="json")
    APIClient().post("/api/session", {"username": "ane", "password": "pw"})
    table = (model if what == "row" else model.pgh_event_model)._meta.db_table
    changes = {"row": "update {} set id = id + 1", "event": "update {} set pgh_label = 'x'"}
    for change in (changes[what].format(table), f"delete from {table}"):
        refused = pytest.raises(DatabaseError, match="annot")
        with refused, transaction.atomic(), connection.cursor() as cursor:
            cursor.execute(change)


def test_mending_tells_one_revision(shop) -> None:
    item = take_in(shop, HOLED)
    mend(shop, item)
    work()
    told = trail(shop.client, f"/api/items/{item}/trail")
    assert sum("revision 1, “mended”" in one for one in told) == 1
