"""Rule sheets and their history, machines, and judging an item by another material."""

from dataclasses import replace

import numpy as np
import pgtrigger
import pytest
from caulkjob.rule_sheets import usual_rule_sheet, usual_rule_sheets
from harbour.breakers import without
from makers import binary_stl, box, sphere
from materials.models import Machine, Material
from orders.models import Item
from test_path import item_of, states, take_in
from work import tasks
from working import do, kinds, mend, release, report_of, work


def nylon(**changes):
    return {**usual_rule_sheet("sintered-nylon").as_json(), "key": "nylon", **changes}


def put(client, rules, why="thinner powder", key="nylon"):
    return client.put(f"/api/materials/{key}", {"rules": rules, "why": why}, format="json")


def test_the_lead_edits_a_sheet_and_the_old_one_stays(lead, shop) -> None:
    answer = put(lead, nylon(wall_free=1.1))
    assert answer.status_code == 200
    assert (answer.data["edition"], answer.data["rules"]["wall_free"]) == (2, 1.1)
    told = shop.client.get("/api/materials/nylon/editions").data
    assert [e["number"] for e in told] == [2, 1]
    assert told[0]["changes"] == [{"name": "wall_free", "before": 0.9, "now": 1.1}]
    assert (told[0]["by"], told[0]["why"]) == ("Liv Sund", "thinner powder")
    assert told[1]["rules"]["wall_free"] == 0.9
    # the same once more is no new edition
    assert put(lead, nylon(wall_free=1.1)).data["edition"] == 2


@pytest.mark.parametrize(
    ("rules", "status", "words"),
    [
        (nylon(wall_free=-1), 400, "must be from 0 to 100"),
        (nylon(largest=[1, 2]), 400, "three sides"),
        (nylon(largest=7), 400, "three sides"),
        (nylon(key="other"), 400, "stays as it is"),
        (nylon(must_drain="yes"), 400, "true or false"),
        ({"key": "nylon"}, 400, "lacks"),
        ([], 400, "object of named values"),
        (nylon(name=""), 400, "1 to 80 letters"),
        (nylon(density_g_cm3=True), 400, "Density"),
    ],
)
def test_a_bad_sheet_is_refused_in_words(lead, rules, status: int, words: str) -> None:
    answer = put(lead, rules)
    assert answer.status_code == status
    assert words in answer.data["detail"]
    assert Material.objects.get(key="nylon").editions.count() == 1


def test_only_the_lead_changes(shop) -> None:
    calls = (
        put(shop.client, nylon(wall_free=2)),
        shop.client.post("/api/materials/bring", {"sheets": [nylon()]}, format="json"),
        shop.client.post("/api/machines", {}, format="json"),
    )
    for answer in calls:
        assert answer.status_code == 403
        assert "Only the shop's lead" in answer.data["detail"]


def test_sheets_leave_as_a_file_and_come_in_again(lead, shop) -> None:
    sheets = [one.as_json() for one in usual_rule_sheets().values()]
    answer = lead.post("/api/materials/bring", {"sheets": sheets}, format="json")
    assert answer.status_code == 200
    assert len(answer.data["changed"]) == len(sheets)
    file = shop.client.get("/api/materials/file")
    assert "attachment" in file["Content-Disposition"]
    again = lead.post("/api/materials/bring", file.json(), format="json")
    assert again.data == {"changed": [], "unchanged": again.data["unchanged"]}
    assert len(again.data["unchanged"]) == len(sheets) + 1
    # all or none
    bad = lead.post(
        "/api/materials/bring",
        {"sheets": [nylon(wall_free=3), {**sheets[0], "wire_free": 1e9}]},
        format="json",
    )
    assert bad.status_code == 400
    assert Material.objects.get(key="nylon").rules["wall_free"] == 0.9
    twice = lead.post("/api/materials/bring", {"sheets": [nylon(), nylon()]}, format="json")
    assert "same key" in twice.data["detail"]


def test_machines(lead, shop) -> None:
    given = {"name": "North dock", "process": "Sintering", "x": 300, "y": 300, "z": 400}
    made = lead.post("/api/machines", given, format="json")
    assert made.status_code == 201
    path = f"/api/machines/{made.data['id']}"
    assert lead.put(path, {**given, "z": 0}, format="json").status_code == 400
    assert lead.put(path, {**given, "z": 500}, format="json").data["z"] == 500
    assert [one["z"] for one in shop.client.get("/api/machines").data] == [500]
    assert lead.delete(path).status_code == 204
    assert shop.client.get("/api/demands").data[0]["title"] == "Wall, held"


def test_an_item_is_judged_by_another_material(shop) -> None:
    gypsum = replace(usual_rule_sheet("colour-gypsum"), wall_supported=2.0, wall_free=3.0)
    Material.take(gypsum, None)
    item = take_in(shop, binary_stl(box((40, 40, 2.5))))
    piece = Item.objects.get(pk=item).workpiece
    assert piece.examination.standard["sheet"]["key"] == "nylon"
    told = {one["key"]: one for one in report_of(item)["verdicts"]}
    assert told["nylon"]["passes"]
    (fault,) = told["colour-gypsum"]["faults"]
    assert (fault["what"], fault["found"], fault["asked"]) == ("thin-free-walls", 2.5, 3.0)
    assert told["colour-gypsum"]["scale"] == 1.2

    given = {"material": "colour-gypsum", "reason": ""}
    assert do(shop, item, "material", **given).status_code == 400
    given["reason"] = "asked for by telephone"
    assert do(shop, item, "material", **given).status_code == 204
    seam = {s["question"]: s for s in item_of(shop, item)["seam"]}
    assert (seam["walls"]["state"], seam["walls"]["text"]) == ("not run", "being judged")
    assert not item_of(shop, item)["ready"]
    assert release(shop, item).status_code == 409
    assert work().state == "done"
    assert states(shop, item)["walls"] == "your call"
    # the shape is as it was: no new revision, and the reason is kept as a decision
    assert [r["number"] for r in item_of(shop, item)["revisions"]] == [0]
    assert kinds(item) == {"thin-free-walls"}
    (decision,) = item_of(shop, item)["decisions"]
    assert (decision["act"], decision["reason"]) == ("material", "asked for by telephone")
    assert decision["about"] == {"from": "Sintered nylon", "to": "Colour gypsum"}

    # back to the first: its verdict is there still, and holds at once
    assert do(shop, item, "material", material="nylon", reason="as ordered").status_code == 204
    assert states(shop, item)["walls"] == "tight"
    again = do(shop, item, "material", material="nylon", reason="as ordered")
    assert again.status_code == 409


def test_going_back_leaves_the_material_as_ordered(shop) -> None:
    Material.take(usual_rule_sheet("colour-gypsum"), None)
    item = take_in(shop, binary_stl(without(box(20), np.array([0]))))
    assert mend(shop, item).status_code == 202
    work()
    do(shop, item, "material", material="colour-gypsum", reason="by telephone")
    work()
    assert do(shop, item, "current", to=0).status_code == 204
    assert Item.objects.get(pk=item).material.key == "colour-gypsum"
    # the revision gone back to is judged by it
    assert states(shop, item)["walls"] == "not run"
    assert work().state == "done"
    assert "walls" in report_of(item)["questions"]


def test_walls_of_large_meshes_are_judged_by_themselves(shop) -> None:
    item = take_in(shop, binary_stl(sphere(5, 7)))
    assert "walls" not in report_of(item)["questions"]
    seam = {s["question"]: s for s in item_of(shop, item)["seam"]}
    assert (seam["walls"]["state"], seam["walls"]["text"]) == ("not run", "being judged")
    told = item_of(shop, item)
    # nothing is locked meanwhile, and nothing looks ready
    assert (told["job"]["state"], told["judging"]["state"]) == ("done", "waiting")
    assert not told["ready"]
    first = Item.objects.get(pk=item).workpiece.examination_id
    assert shop.client.get(f"/api/examinations/{first}/soundings").status_code == 404
    assert work().state == "done"
    assert states(shop, item)["walls"] == "tight"
    assert len(item_of(shop, item)["revisions"]) == 1
    second = Item.objects.get(pk=item).workpiece.examination_id
    packed = b"".join(shop.client.get(f"/api/examinations/{second}/soundings"))
    assert packed[:4] == b"IKSD"
    # either examination is still told as it was
    revision = item_of(shop, item)["current"]
    for key, asked in ((first, False), (second, True)):
        report = shop.client.get(f"/api/revisions/{revision}?examination={key}").data["report"]
        assert ("walls" in report["questions"]) is asked


def test_what_a_revision_changed_is_served_with_it(shop) -> None:
    item = Item.objects.get(pk=take_in(shop, binary_stl(without(box(20), np.array([0])))))
    first = f"/api/revisions/{item.workpiece.current_id}/changes"
    assert shop.client.get(first).status_code == 404  # nothing before the file as received
    assert mend(shop, item.pk).status_code == 202
    assert work().state == "done"
    item.refresh_from_db()
    current = item.workpiece.current
    packed = b"".join(shop.client.get(f"/api/revisions/{current.pk}/changes"))
    assert packed[:4] == b"IKCH"
    faces, parts = np.frombuffer(packed, "<u4", 2, 8)
    divided = np.frombuffer(packed, "<u2", faces, 24)
    assert (divided > 0).sum() == current.account["new_faces"] == 1
    away = np.frombuffer(packed, "<u2", parts, 24 + 2 * int(faces)) / 65535
    greatest = np.frombuffer(packed, "<f8", 1, 16)[0]
    low, high = current.account["deviation_bound_mm"]
    # what is drawn agrees with what is told
    assert away.max() == 1
    assert 0.9 * low <= greatest <= high
    told = shop.client.get(f"/api/revisions/{current.pk}").json()["account"]
    assert told["deviation_bound_mm"] == [low, high]
    assert told["taken_out"] == {"pieces": 0, "faces": 0, "area_mm2": 0.0}


def test_an_account_of_old_is_still_told(shop) -> None:
    item = Item.objects.get(pk=take_in(shop, binary_stl(without(box(20), np.array([0])))))
    assert mend(shop, item.pk).status_code == 202
    work()
    item.refresh_from_db()
    current = item.workpiece.current
    for name in ("deviation_mm", "deviation_bound_mm", "lost_mm", "added_mm", "taken_out"):
        del current.account[name]
    examination = item.workpiece.examination
    for piece in examination.report["pieces"]:
        piece["across_mm"] = piece.pop("longest_mm")
        del piece["sides_mm"], piece["number"]
    with pgtrigger.ignore():  # the database lets nobody change either
        current.save()
        examination.save()
    told = shop.client.get(f"/api/revisions/{current.pk}").json()
    assert told["account"]["deviation_bound_mm"] is None
    assert told["report"]["pieces"][0]["longest_mm"] == 20
    assert told["report"]["pieces"][0]["number"] == 1


def test_after_mending_the_size_is_still_judged_by_the_sheet(shop) -> None:
    Material.take(replace(usual_rule_sheet("sintered-nylon"), key="nylon", largest=(8, 8, 8)), None)
    item = Item.objects.get(pk=take_in(shop, binary_stl(without(box(20), np.array([0])))))
    assert mend(shop, item.pk).status_code == 202
    assert work().state == "done"
    item.refresh_from_db()
    assert item.workpiece.current.number == 1
    assert kinds(item.pk) == {"too-large"}


def test_an_examination_names_the_rules_it_was_judged_by(shop, monkeypatch) -> None:
    listen = tasks._listen

    def edited_meanwhile(*given):
        Material.take(
            replace(usual_rule_sheet("sintered-nylon"), key="nylon", largest=(8, 8, 8)), None
        )
        return listen(*given)

    monkeypatch.setattr(tasks, "_listen", edited_meanwhile)
    item = Item.objects.get(pk=take_in(shop, binary_stl(box(20))))
    examination = item.workpiece.examination
    assert not examination.report["findings"]
    assert examination.standard["sheet"]["largest"] != [8, 8, 8]
    assert item.material.rules["largest"] == [8, 8, 8]
    # and is judged by the new ones at once
    monkeypatch.setattr(tasks, "_listen", listen)
    assert states(shop, item.pk)["size"] == "not run"
    assert work().state == "done"
    assert states(shop, item.pk)["size"] == "your call"


def test_a_part_must_fit_a_machine_of_its_process(shop) -> None:
    sheet = replace(usual_rule_sheet("sintered-nylon"), key="nylon")
    Material.take(sheet, None)
    Machine.objects.create(name="Vat", process="Vat resin", x=500, y=500, z=500)
    Machine.objects.create(name="Short pier", process=sheet.process, x=15, y=30, z=30)
    report = report_of(take_in(shop, binary_stl(box(20))))
    assert [f["kind"] for f in report["findings"]] == ["too-large"]
    assert "5.0 mm longer than “Short pier” takes" in report["findings"][0]["text"]
    faults = {one["key"]: one["faults"] for one in report["verdicts"]}
    assert [f["title"] for f in faults["nylon"]] == ["Build volume of Short pier"]
