"""Decisions that hold: on which revision, about which place, in which material, until when."""

from dataclasses import replace

import numpy as np
import pytest
from bench.judging import judge_all
from bench.judging_anew import judge_anew
from bench.models import Decision, Examination
from caulkcore import Mesh
from caulkjob.rule_sheets import usual_rule_sheet
from django.db import connection
from harbour import breakers as b
from makers import binary_stl, box, hollow_box, sphere
from materials.models import Material
from orders.models import Item
from rest_framework.test import APIClient
from test_answers import at_once, client_of
from test_path import HOLED, item_of, states, take_in
from work.models import Job
from working import (
    TEXT,
    accept,
    do,
    finding,
    kinds,
    mend,
    operate,
    release,
    report_of,
    work,
)


def moved(mesh: Mesh, x: float) -> Mesh:
    return Mesh(mesh.vertices + np.array([x, 0, 0]), mesh.faces)


def two_voids() -> Mesh:
    """Two hollow boxes far from each other, one of them with a hole in its outer skin."""
    return b.soup(hollow_box(), moved(hollow_box(), 60))


def plate(thickness: float) -> bytes:
    return binary_stl(box((40, 40, thickness)))


def sheet(**changes) -> None:
    """The rules of nylon, with some changed."""
    Material.take(replace(usual_rule_sheet("sintered-nylon"), key="nylon", **changes), None)


CHANGES = {
    "mend": {},
    "operate": {"operation": "fill-holes", "parameters": {}},
    "current": {"to": 0},
    "material": {"material": "tough-resin", "reason": "by telephone"},
    "decisions": {"kind": "debris", "listed": 1, "reason": "as it is", "examination": 1},
    "apart": {"pieces": [1], "reason": "as it is"},
    "release": {"format": "stl", "letter": TEXT, "rests_on": "what I read"},
    "judge": {},
}


@pytest.mark.parametrize("what", CHANGES)
def test_every_change_names_the_revision_it_was_made_on(shop, what: str) -> None:
    Material.take(usual_rule_sheet("tough-resin"), None)
    item = take_in(shop, HOLED)
    seen = item_of(shop, item)["current"]
    mend(shop, item)
    work()
    before = item_of(shop, item)
    path, body = f"/api/items/{item}/{what}", CHANGES[what]
    late = shop.client.post(path, {**body, "revision": seen}, format="json")
    assert late.status_code == 409
    assert late.data["detail"].startswith("Ane Vik moved this item on meanwhile: revision 1 holds")
    assert late.data["moved_on"] == {
        "revision": before["current"], "number": 1, "by": "Ane Vik"
    }  # fmt: skip
    # nothing happened
    assert item_of(shop, item) == before
    assert not Job.objects.filter(state__in=Job.OPEN).exists()
    # and without a name nothing does
    assert shop.client.post(path, body, format="json").status_code == 400


def test_who_went_back_is_told_too(shop, lead) -> None:
    item = take_in(shop, HOLED)
    mend(shop, item)
    work()
    seen = item_of(shop, item)["current"]
    lead.post(f"/api/items/{item}/current", {"revision": seen, "to": 0}, format="json")
    late = do(shop, item, "mend", revision=seen)
    assert late.data["detail"].startswith("Liv Sund moved this item on")
    assert "revision 0 holds (gone back to" in late.data["detail"]
    assert item_of(shop, item)["moved_by"] == "Liv Sund"


def test_of_two_who_change_at_once_one_comes_late(shop) -> None:
    item = take_in(shop, HOLED)
    mend(shop, item)
    work()
    seen = item_of(shop, item)["current"]
    body = {"revision": seen, "to": 0}
    clients = [client_of(shop) for _ in range(4)]
    path = f"/api/items/{item}/current"
    answers = at_once(*(lambda c=c: c.post(path, body, format="json") for c in clients))
    assert sorted(a.status_code for a in answers) == [204, 409, 409, 409]
    assert Decision.objects.filter(act="return").count() == 1


def test_one_accepted_void_leaves_the_other_open(shop) -> None:
    item = take_in(shop, binary_stl(two_voids()))
    assert accept(shop, item, "sealed-voids", "to float", places=[1]).status_code == 201
    told = item_of(shop, item)
    assert states(shop, item)["inside"] == "your call"
    assert next(s for s in told["seam"] if s["question"] == "inside")["text"] == "1 sealed void"
    (cover,) = told["covered"]
    assert (cover["kind"], cover["place"], cover["reason"]) == ("sealed-voids", 1, "to float")
    # all of them, as they are listed
    assert accept(shop, item, "sealed-voids", "both", listed=3).status_code == 409
    assert accept(shop, item, "sealed-voids", "both", places=[3]).status_code == 400
    assert accept(shop, item, "sealed-voids", "both").status_code == 201
    assert states(shop, item)["inside"] == "waived"


def test_an_acceptance_holds_on_later_revisions_as_long_as_it_fits(shop) -> None:
    """Through mending, rework, going back; not for what was made another size."""
    holed = b.soup(hollow_box(), moved(b.without(hollow_box(), np.array([0])), 60))
    item = take_in(shop, binary_stl(holed))
    accept(shop, item, "sealed-voids", "to float", places=[1])
    mend(shop, item)
    assert work().state == "done"
    # the second one became a void by mending: that was not accepted
    assert len(finding(item, "sealed-voids")["spots"]) == 2
    assert [c["place"] for c in item_of(shop, item)["covered"]] == [1]
    operate(shop, item, "refine", size=4.0)
    assert work().state == "done"
    assert [c["place"] for c in item_of(shop, item)["covered"]] == [1]
    do(shop, item, "current", to=0)
    assert [c["place"] for c in item_of(shop, item)["covered"]] == [1]
    assert Decision.objects.filter(act="accept").count() == 1
    operate(shop, item, "set-unit", unit="cm")
    assert work().state == "done"
    assert item_of(shop, item)["covered"] == []


def test_a_wall_that_gets_thinner_asks_again(shop) -> None:
    item = take_in(shop, plate(0.6))
    accept(shop, item, "thin-free-walls", "a stencil")
    assert states(shop, item)["walls"] == "waived"
    revision = Item.objects.get(pk=item).workpiece.current
    examination = Item.objects.get(pk=item).workpiece.examination
    report = {**examination.report}
    spot = {**report["findings"][0]["spots"][0], "value": 0.5, "thickness_mm": 0.5}
    report["findings"] = [{**report["findings"][0], "spots": [spot]}]
    thinner = Examination.objects.create(
        revision=revision, report=report, brief=Examination.brief_of(report), tight=True,
        material=examination.material, standard=examination.standard,
    )  # fmt: skip
    piece = Item.objects.get(pk=item).workpiece
    piece.examination = thinner
    piece.save()
    assert states(shop, item)["walls"] == "your call"


def test_what_was_judged_anew_meanwhile_is_not_accepted_unseen(shop) -> None:
    Material.take(usual_rule_sheet("tough-resin"), None)
    item = take_in(shop, plate(0.6))
    seen = Item.objects.get(pk=item).workpiece.examination_id
    do(shop, item, "material", material="tough-resin", reason="by telephone")
    work()
    late = accept(shop, item, "thin-free-walls", "a stencil", examination=seen)
    assert late.status_code == 409
    assert "judged anew" in late.data["detail"]
    assert not Decision.objects.filter(act="accept").exists()
    assert accept(shop, item, "thin-free-walls", "a stencil").status_code == 201
    assert Decision.objects.get(act="accept").material.key == "tough-resin"


def test_a_release_rests_on_what_was_read(shop) -> None:
    item = take_in(shop, binary_stl(two_voids()))
    accept(shop, item, "sealed-voids", "to float")
    read = shop.client.get(f"/api/items/{item}/release").data["rests_on"]
    made = accept(shop, item, "sealed-voids", "once more").data["id"]
    late = do(shop, item, "release", format="stl", letter=TEXT, rests_on=read)
    assert late.status_code == 409
    assert "read it again" in late.data["detail"]
    shop.client.post(f"/api/decisions/{made}/withdraw", {"reason": "too much"}, format="json")
    assert release(shop, item).status_code == 202
    assert work().state == "done"


def test_an_acceptance_stays_with_the_material_it_was_made_for(shop) -> None:
    Material.take(usual_rule_sheet("colour-gypsum"), None)
    item = take_in(shop, plate(0.6))
    accept(shop, item, "thin-free-walls", "a stencil")
    do(shop, item, "material", material="colour-gypsum", reason="by telephone")
    work()
    assert states(shop, item)["walls"] == "your call"
    do(shop, item, "material", material="nylon", reason="by telephone")
    # nothing was lost: it holds again, without being judged anew
    assert states(shop, item)["walls"] == "waived"
    assert Decision.objects.get(act="accept").material.key == "nylon"


def test_a_sheet_that_asks_for_more_asks_again_and_one_for_less_does_not(shop) -> None:
    item = take_in(shop, plate(0.6))
    accept(shop, item, "thin-free-walls", "a stencil")
    for free, held, state in ((0.8, 0.7, "waived"), (1.5, 0.7, "your call"), (0.9, 0.7, "waived")):
        sheet(wall_free=free, wall_supported=held)
        assert states(shop, item)["walls"] == "not run", "judged by what holds no longer"
        assert release(shop, item).status_code == 409
        assert judge_all() == 1
        assert work().state == "done"
        assert states(shop, item)["walls"] == state
    assert judge_all() == 0


def test_what_has_left_is_not_judged_again_until_it_is_withdrawn(shop) -> None:
    item = take_in(shop, plate(1.0))
    release(shop, item)
    work()
    sheet(wall_free=1.5)
    assert judge_all() == 0
    assert states(shop, item)["walls"] == states(shop, item)["release"] == "tight"
    # but it does not leave a second time by rules of before
    assert release(shop, item).status_code == 409
    key = item_of(shop, item)["releases"][0]["id"]
    shop.client.post(f"/api/releases/{key}/withdraw", {"reason": "it broke"}, format="json")
    assert states(shop, item)["walls"] == "not run"
    assert judge_all() == 1
    assert work().state == "done"
    assert states(shop, item)["walls"] == "your call"


def test_withdrawing_is_an_event_of_its_own(shop) -> None:
    item = take_in(shop, binary_stl(two_voids()))
    made = accept(shop, item, "sealed-voids", "to float").data["id"]
    path = f"/api/decisions/{made}/withdraw"
    back = {"places": [0], "reason": "they sank"}
    assert shop.client.post(path, back, format="json").status_code == 201
    assert shop.client.post(path, back, format="json").status_code == 400
    assert [c["place"] for c in item_of(shop, item)["covered"]] == [2]
    assert shop.client.post(path, {"reason": "all"}, format="json").status_code == 201
    assert item_of(shop, item)["covered"] == []
    told = item_of(shop, item)["decisions"]
    assert [(d["act"], d["holds"]) for d in told] == [
        ("accept", []), ("withdraw", []), ("withdraw", [])
    ]  # fmt: skip
    assert told[1]["withdraws"] == made
    assert shop.client.post(path, {"reason": "x"}, format="json").status_code == 400


def row(*holes: int) -> Mesh:
    """Three boxes that overlap in a row, some without a face."""
    boxes = [moved(box(10), 8 * i) for i in range(3)]
    return b.soup(*(b.without(m, np.array([0])) if i in holes else m for i, m in enumerate(boxes)))


def test_a_piece_stays_apart_by_decision_through_revisions(shop) -> None:
    item = take_in(shop, binary_stl(row()))
    for wrong, status in (([], 400), ([9], 400), (["x"], 400)):
        answer = do(shop, item, "apart", pieces=wrong, reason="it turns")
        assert answer.status_code == status
    assert do(shop, item, "apart", pieces=[1], reason="it turns").status_code == 201
    assert mend(shop, item).status_code == 202
    assert work().state == "done"
    assert report_of(item)["shells"] == 2
    assert "stay apart as chosen" in Item.objects.get(pk=item).workpiece.current.left[0]
    # the piece keeps its number, and is not united on the next revision either
    numbers = sorted(p["number"] for p in report_of(item)["pieces"])
    assert numbers[0] == 1
    assert item_of(shop, item)["apart"] == [1]
    assert operate(shop, item, "unite").status_code == 202
    job = work()
    assert (job.state, "stay apart as chosen" in job.message) == ("refused", True)


def test_an_overlap_kept_apart_is_no_dead_end(shop) -> None:
    item = take_in(shop, binary_stl(row()))
    do(shop, item, "apart", pieces=[1], reason="it turns on the pin")
    mend(shop, item)
    work()
    # walls are judged where pieces overlap on purpose, each alone
    if Job.objects.filter(state__in=Job.OPEN).exists():
        assert work().state == "done"
    told = states(shop, item)
    assert (told["solid"], told["walls"]) == ("waived", "tight")
    letter = shop.client.get(f"/api/items/{item}/release").data["letter"]
    assert "Piece 1 (outer skin) stays apart from the others." in letter["accepted"]
    assert "turns on the pin" not in "".join(letter.values())
    assert release(shop, item, "3mf", **letter).status_code == 202
    job = work()
    assert job.state == "done", job.message
    assert states(shop, item)["release"] == "tight"
    # without the decision it may not leave
    (kept,) = Decision.objects.filter(kind="stays-apart")
    shop.client.post(f"/api/decisions/{kept.pk}/withdraw", {"reason": "glue it"}, format="json")
    assert states(shop, item)["solid"] == "leaks"


def test_pieces_keep_their_numbers_when_others_come_or_go(shop) -> None:
    crumbs = b.soup(box(0.2, (50, 0, 0)), box(20), moved(box(12), 40))
    item = take_in(shop, binary_stl(crumbs))
    first = {round(p["longest_mm"]): p["number"] for p in report_of(item)["pieces"]}
    assert sorted(first.values()) == [1, 2, 3]
    assert operate(shop, item, "drop-debris").status_code == 202
    assert work().state == "done"
    then = {round(p["longest_mm"]): p["number"] for p in report_of(item)["pieces"]}
    assert then == {20: first[20], 12: first[12]}
    titles = {s["title"] for s in finding(item, "loose-parts")["spots"]}
    assert titles == {f"Loose part: piece {n}" for n in then.values()}


MANY = 15_000
"""Triangles that count as very many in these tests."""


@pytest.mark.parametrize(("thickness", "state"), [(0.5, "your call"), (0.8, "tight")])
def test_a_plate_of_very_many_triangles_is_judged_before_it_leaves(
    shop, settings, thickness: float, state: str
) -> None:
    """Nobody presses anything; the figure is right within 1 %, on the item and in the letter."""
    settings.WALLS_AT_ONCE = MANY
    sheet(wall_supported=0.7, wall_free=0.7)
    item = take_in(shop, fine_plate(thickness))
    assert report_of(item)["triangles"] > MANY
    told = item_of(shop, item)
    assert states(shop, item)["walls"] == "not run"
    assert not told["ready"]
    assert release(shop, item).status_code == 409
    assert work().state == "done"
    assert states(shop, item)["walls"] == state
    (free,) = [t for t in report_of(item)["thinnest"] if t["kind"] == "thin-free-walls"]
    assert free["thickness_mm"] == pytest.approx(thickness, rel=0.01)
    assert (release(shop, item, "stl").status_code == 202) is (state == "tight")
    if state == "tight":
        assert work().state == "done"
        key = item_of(shop, item)["releases"][0]["id"]
        page = shop.client.get(f"/api/releases/{key}/letter").content.decode()
        assert "<b>0.80 mm</b> (asked for: at least 0.70 mm)" in page


def fine_plate(thickness: float, n: int = 90) -> bytes:
    """A square plate, its two faces divided into very many triangles."""
    at = np.linspace(0, 60, n + 1)
    grid = np.stack(np.meshgrid(at, at, indexing="ij"), axis=-1).reshape(-1, 2)
    corner = (np.arange(n)[:, None] * (n + 1) + np.arange(n)).ravel()
    a, c, d, e = corner, corner + n + 1, corner + n + 2, corner + 1
    top = np.concatenate([np.stack([a, c, d], 1), np.stack([a, d, e], 1)])
    k = len(grid)
    ring = np.concatenate(
        [
            np.arange(n) * (n + 1),
            n * (n + 1) + np.arange(n),
            (n - np.arange(n)) * (n + 1) + n,
            n - np.arange(n),
        ]
    )
    after = np.roll(ring, -1)
    sides = np.concatenate(
        [np.stack([ring, ring + k, after + k], 1), np.stack([ring, after + k, after], 1)]
    )
    levels = [np.column_stack([grid, np.full(k, z)]) for z in (thickness, 0.0)]
    faces = np.concatenate([top, top[:, ::-1] + k, sides])
    mesh = Mesh(np.concatenate(levels), faces)
    assert mesh.volume == pytest.approx(3600 * thickness)
    return binary_stl(mesh)


def test_what_is_decided_while_a_release_is_written_stops_it(shop) -> None:
    item = take_in(shop, binary_stl(hollow_box()))
    made = accept(shop, item, "sealed-voids", "to float").data["id"]
    assert release(shop, item).status_code == 202
    shop.client.post(f"/api/decisions/{made}/withdraw", {"reason": "it sank"}, format="json")
    job = work()
    assert (job.state, item_of(shop, item)["releases"]) == ("refused", [])
    assert accept(shop, item, "sealed-voids", "to float").status_code == 201
    assert release(shop, item).status_code == 202
    assert work().state == "done"
    (left,) = item_of(shop, item)["releases"]
    assert left["withdrawal"] is None


def test_a_release_is_withdrawn_with_a_reason_once(shop) -> None:
    item = take_in(shop, binary_stl(box(20)))
    release(shop, item)
    work()
    (left,) = item_of(shop, item)["releases"]
    path = f"/api/releases/{left['id']}/withdraw"
    assert shop.client.post(path, {"reason": ""}, format="json").status_code == 400
    assert shop.client.post(path, {"reason": "wrong ship"}, format="json").status_code == 201
    assert shop.client.post(path, {"reason": "wrong ship"}, format="json").status_code == 409
    told = item_of(shop, item)
    assert told["ready"]
    assert told["released"] is None
    assert told["releases"][0]["withdrawal"]["reason"] == "wrong ship"
    page = shop.client.get(f"/api/releases/{left['id']}/letter").content.decode()
    assert "This release was withdrawn on" in page
    assert "wrong ship" not in page
    name = shop.client.get(f"/api/releases/{left['id']}/file")["Content-Disposition"]
    assert "WITHDRAWN_" in name


def test_the_letter_tells_findings_and_no_private_reasons(shop) -> None:
    turned = b.soup(hollow_box(), moved(b.turned(sphere(8, 2), np.arange(320)), 60))
    item = take_in(shop, binary_stl(turned))
    accept(shop, item, "sealed-voids", "their buyer is difficult")
    mend(shop, item)
    assert work().state == "done"
    proposal = shop.client.get(f"/api/items/{item}/release").data
    assert [one["format"] for one in proposal["offers"]] == ["3mf", "stl", "obj", "ply"]
    letter = dict(proposal["letter"])
    assert "difficult" not in "".join(letter.values())
    assert "Sealed void" in letter["accepted"]
    assert "stays as it is" in letter["accepted"]
    assert "−" not in letter["changed"]
    assert "on the corners they had" in letter["changed"]
    assert "exactly as they were" not in letter["changed"]
    letter["opening"] = "Dear harbour,\nyour float <b>is</b> ready."
    assert release(shop, item, "stl", **letter).status_code == 202
    assert work().state == "done"
    page = shop.client.get(
        f"/api/releases/{item_of(shop, item)['releases'][0]['id']}/letter"
    ).content.decode()
    assert "<p>Dear harbour,</p><p>your float &lt;b&gt;is&lt;/b&gt; ready.</p>" in page
    assert " kB" in page
    assert "0.00 MB" not in page


def test_the_shops_own_format_is_proposed_first(shop, lead) -> None:
    lead.put("/api/shop", {"values": {"format": "obj"}}, format="json")
    item = take_in(shop, binary_stl(box(20)))
    offers = shop.client.get(f"/api/items/{item}/release").data["offers"]
    assert [one["format"] for one in offers] == ["obj", "3mf", "stl", "ply"]
    # what leaves in which format is no reason to judge anything anew
    assert states(shop, item)["walls"] == "tight"


def test_judging_can_be_stopped_and_begun_again(shop, settings) -> None:
    settings.WALLS_AT_ONCE = MANY
    item = take_in(shop, binary_stl(sphere(5, 5)))
    judging = item_of(shop, item)["judging"]["id"]
    assert shop.client.post(f"/api/jobs/{judging}/cancel").status_code == 204
    seam = {s["question"]: s["text"] for s in item_of(shop, item)["seam"]}
    assert seam["walls"] == "not judged"
    assert do(shop, item, "judge").status_code == 204
    assert work().state == "done"
    assert states(shop, item)["walls"] == "tight"


def test_judging_of_what_moved_on_begins_anew(shop, settings) -> None:
    """Another material while it is judged: that verdict is not the one that holds."""
    settings.WALLS_AT_ONCE = MANY
    Material.take(usual_rule_sheet("colour-gypsum"), None)
    item = take_in(shop, binary_stl(sphere(5, 5)))
    first = item_of(shop, item)["judging"]["id"]
    do(shop, item, "material", material="colour-gypsum", reason="by telephone")
    assert work(first).state == "cancelled"
    second = item_of(shop, item)["judging"]
    assert (second["id"] != first, second["state"]) == (True, "waiting")
    assert work().state == "done"
    assert Item.objects.get(pk=item).workpiece.examination.material.key == "colour-gypsum"
    assert "walls" in report_of(item)["questions"]


def test_a_file_that_cannot_be_read_is_replaced_or_set_aside(shop) -> None:
    from django.core.files.uploadedfile import SimpleUploadedFile
    from test_path import upload

    item = upload(shop, b"solid nothing\n" * 20, "torn.stl").data["id"]
    work()
    received = Item.objects.get(pk=item).received_path
    aside = {"aside": True, "reason": "they send another"}
    assert do(shop, item, "set-aside", revision=0, **aside).status_code == 204
    assert do(shop, item, "set-aside", revision=0, **aside).status_code == 409
    assert item_of(shop, item)["set_aside"]
    letter = {"text": "Your file could not be read.\nPlease send it again."}
    assert do(shop, item, "letters", revision=0, **letter).status_code == 201
    key = item_of(shop, item)["letters"][0]["id"]
    assert "Please send it again." in shop.client.get(f"/api/letters/{key}").content.decode()

    def replaced(data: bytes, **more):
        file = SimpleUploadedFile("whole.stl", data)
        body = {"file": file, "reason": "sent again", **more}
        return shop.client.post(f"/api/items/{item}/replace", body, format="multipart")

    assert replaced(binary_stl(box(20)), reason="").status_code == 400
    assert replaced(binary_stl(box(20))).status_code == 202
    assert work().state == "done"
    told = item_of(shop, item)
    assert (told["problem"], told["set_aside"], told["file_name"]) == ("", False, "whole.stl")
    assert states(shop, item)["closed"] == "tight"
    assert [d["act"] for d in told["decisions"]] == ["set-aside", "replace"]
    # what came first is kept
    assert told["decisions"][1]["about"]["kept"] == received
    assert replaced(binary_stl(box(20))).status_code == 409


def test_what_was_stopped_before_there_was_a_mesh_is_begun_once_more(shop) -> None:
    from test_path import upload

    def stopped_and_begun_again(item: int) -> str:
        """The title of the first revision then."""
        again = f"/api/items/{item}/read"
        assert shop.client.post(again).status_code == 409, "it is being read"
        first = item_of(shop, item)["job"]["id"]
        assert shop.client.post(f"/api/jobs/{first}/cancel").status_code == 204
        assert work(first).state == "cancelled"
        told = item_of(shop, item)
        assert (told["job"]["state"], told["problem"]) == ("cancelled", "Stopped before it began.")
        assert shop.client.post(again).status_code == 202
        assert item_of(shop, item)["problem"] == ""
        assert work().state == "done"
        assert states(shop, item)["closed"] == "tight"
        assert shop.client.post(again).status_code == 409, "it has been read"
        current = Item.objects.get(pk=item).workpiece.current
        assert current.number == 0
        return current.title

    item = upload(shop, binary_stl(box(20)), "hatch.stl").data["id"]
    assert stopped_and_begun_again(item) == "as received"
    made = do(shop, item, "pieces", pieces=[], name="Twin", each=False, take_out=False)
    twin = made.data["items"][0]["id"]
    assert stopped_and_begun_again(twin) == "of Hatch, revision 0"


def test_a_file_name_of_any_length_is_taken(shop) -> None:
    name = "a very long keel " * 13 + ".stl"
    item = take_in(shop, binary_stl(box(20)), name)
    told = item_of(shop, item)
    assert told["name"].startswith("A very long keel a very")
    assert len(told["name"]) <= 120
    assert told["file_name"].endswith("keel .stl")


def test_a_held_limit_above_the_free_one_is_refused(lead, shop) -> None:
    rules = {**usual_rule_sheet("sintered-nylon").as_json(), "key": "nylon", "wall_supported": 2.0}
    answer = lead.put("/api/materials/nylon", {"rules": rules}, format="json")
    assert answer.status_code == 400
    assert "must not be more than" in answer.data["detail"]


def test_items_are_listed_without_the_words_of_strangers(shop) -> None:
    """What decisions are about is told to those who are logged in only."""
    item = take_in(shop, binary_stl(hollow_box()))
    stranger = APIClient()
    for path in ("decisions", "apart", "material", "set-aside", "letters", "judge"):
        assert stranger.post(f"/api/items/{item}/{path}", {}, format="json").status_code == 403
    assert kinds(item) == {"sealed-voids"}


def test_the_material_is_changed_in_one_way_only(shop) -> None:
    item = take_in(shop, binary_stl(box(20)))
    for change in (shop.client.patch, shop.client.put):
        answer = change(f"/api/items/{item}", {"material": 1, "quantity": 2}, format="json")
        assert answer.status_code == 405


@pytest.mark.parametrize("what", ["sheet", "limits", "machine"])
def test_a_change_of_the_rules_is_heard_of_by_the_queue(shop, lead, what: str) -> None:
    item = take_in(shop, plate(1.0))

    def heard() -> int:
        with connection.cursor() as cursor:
            cursor.execute("select count(*) from procrastinate_jobs where task_name = 'judge_anew'")
            return cursor.fetchone()[0]

    with connection.cursor() as cursor:
        cursor.execute("delete from procrastinate_jobs")
    rules = {**usual_rule_sheet("sintered-nylon").as_json(), "key": "nylon", "wall_free": 1.5}
    machine = {"name": "Dock", "process": rules["process"], "x": 30, "y": 30, "z": 30}
    answer = {
        "sheet": lambda: lead.put("/api/materials/nylon", {"rules": rules}, format="json"),
        "limits": lambda: lead.put("/api/shop", {"values": {"near_gap": 0.5}}, format="json"),
        "machine": lambda: lead.post("/api/machines", machine, format="json"),
    }[what]()
    assert answer.status_code < 300
    assert heard() == 1
    assert not item_of(shop, item)["ready"]
    judge_anew.func()
    assert work().state == "done"
    assert item_of(shop, item)["ready"] is (what == "limits")
