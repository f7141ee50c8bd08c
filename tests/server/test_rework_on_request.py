"""Rework at large, through the API: what it would take, and what it makes."""

import pytest
from makers import binary_stl, sphere
from orders.models import Item
from test_path import HOLED, item_of, take_in
from working import operate, report_of, work


@pytest.fixture
def ball(shop) -> int:
    return take_in(shop, binary_stl(sphere(20, 4)))


@pytest.mark.parametrize(
    ("operation", "parameters", "words", "refused"),
    [
        ("reduce", {"percent": 50}, "2,560 triangles", False),
        ("reduce", {"triangles": 9000}, "no more than asked for", True),
        ("refine", {"size": 0.02}, "about the least here", True),
        ("refine", {"region": [[20, 0, 0, 4]], "size": 0.5}, "triangles", False),
        ("smooth", {}, "a moment", False),
        ("recast", {"detail": 0.02}, "about the least for this model", True),
        ("recast", {}, "about 2 s", False),
        ("fill-holes", {}, "", False),
    ],
)
def test_what_it_would_take_is_told_before(shop, ball, operation, parameters, words, refused):
    revision = item_of(shop, ball)["current"]
    body = {"operation": operation, "parameters": parameters}
    told = shop.client.post(f"/api/revisions/{revision}/cost", body, format="json").data
    assert words in told["text"]
    assert told["refused"] is refused


def test_an_unknown_operation_or_revision_costs_nothing_but_an_answer(shop, ball) -> None:
    revision = item_of(shop, ball)["current"]
    body = {"operation": "melt"}
    assert shop.client.post(f"/api/revisions/{revision}/cost", body, format="json").data["refused"]
    assert shop.client.post("/api/revisions/0/cost", body, format="json").status_code == 404


def test_reduced_and_refined_through_the_worker(shop, ball) -> None:
    assert operate(shop, ball, "reduce", percent=50).status_code == 202
    assert work().state == "done"
    item = Item.objects.get(pk=ball)
    assert report_of(ball)["triangles"] == 2560
    assert item.workpiece.examination.tight
    assert operate(shop, ball, "refine", region=[[20, 0, 0, 5]], size=1.0).status_code == 202
    assert work().state == "done"
    item.refresh_from_db()
    assert report_of(ball)["triangles"] > 2560
    assert item.workpiece.current.account["unchanged_faces"] > 2000


@pytest.mark.parametrize(
    ("parameters", "words"),
    [
        ({"region": [[1, 2, 3]]}, "Region cannot be"),
        ({"region": [[1, 2, 3, 1e999]]}, ""),
        ({"rounds": 1000}, "Rounds must be from 1 to 200"),
    ],
)
def test_odd_requests_are_refused_in_words(shop, ball, parameters, words: str) -> None:
    revision = Item.objects.get(pk=ball).workpiece.current_id
    body = {"operation": "smooth", "parameters": parameters, "revision": revision}
    if 1e999 in parameters.get("region", [[]])[0]:
        text = '{"operation": "smooth", "parameters": {"region": [[1, 2, 3, 1e999]]}}'
        answer = shop.client.generic(
            "POST", f"/api/items/{ball}/operate", text, content_type="application/json"
        )
    else:
        answer = shop.client.post(f"/api/items/{ball}/operate", body, format="json")
    assert answer.status_code == 400
    assert words in answer.data["detail"]


def test_reworking_leaves_what_leaked_no_worse(shop) -> None:
    item = take_in(shop, HOLED)
    assert operate(shop, item, "reduce", percent=40).status_code == 202
    assert work().state == "done"
    (hole,) = [f for f in report_of(item)["findings"] if f["severity"] == "leak"]
    assert hole["places"] == 2
