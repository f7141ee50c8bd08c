"""The shop's limits and policy: settled by the lead, held by examining and mending."""

import numpy as np
import pytest
from bench.kinds import KEPT_BY_SHOP
from bench.models import Decision
from caulkjob.shop_policy import SETTINGS, ShopPolicy
from harbour import breakers as b
from makers import binary_stl, box, hollow_box, sphere
from materials.models import ShopSettings
from orders.models import Item
from test_path import states, take_in
from working import accept, kinds, mend, operate, report_of, work


def settle(client, **values):
    return client.put("/api/shop", {"values": {**ShopPolicy().as_json(), **values}}, format="json")


def moved(mesh, x: float):
    return type(mesh)(mesh.vertices + np.array([x, 0, 0]), mesh.faces)


HOLED_HOLLOW = b.soup(hollow_box(), moved(b.without(sphere(5, 2), np.array([0])), 60))
CRUMBED = b.soup(moved(b.without(sphere(5, 3), np.array([0])), 60), moved(sphere(0.1, 1), 30))


def mended(shop, mesh) -> Item:
    item = Item.objects.get(pk=take_in(shop, binary_stl(mesh)))
    assert mend(shop, item.pk).status_code == 202
    assert work().state == "done"
    item.refresh_from_db()
    return item


def test_the_lead_settles_and_everybody_reads(lead, shop) -> None:
    told = shop.client.get("/api/shop").data
    assert told["values"] == ShopPolicy().as_json()
    assert [one["name"] for one in told["settings"]] == [one.name for one in SETTINGS]
    assert told["at"] is None
    assert settle(shop.client, near_gap=1).status_code == 403
    answer = settle(lead, near_gap=0.2)
    assert (answer.data["values"]["near_gap"], answer.data["by"]) == (0.2, "Liv Sund")
    settle(lead, near_gap=0.2)
    assert ShopSettings.objects.count() == 1


@pytest.mark.parametrize(
    ("values", "words"),
    [
        ({"near_gap": -1}, "Near gap must be from 0.001 to 5 mm"),
        ({"voids": "forget"}, "Sealed voids cannot be"),
        ({"unite": 1}, "Overlapping pieces cannot be"),
        ({"colour": "red"}, "no setting “colour”"),
    ],
)
def test_what_cannot_be_settled_is_refused(lead, shop, values, words: str) -> None:
    answer = settle(lead, **values)
    assert answer.status_code == 400
    assert words in answer.data["detail"]
    assert not ShopSettings.objects.exists()


@pytest.mark.parametrize(
    ("policy", "inside", "left"),
    [("ask", "your call", True), ("keep", "waived", True), ("fill", "tight", False)],
)
def test_voids_by_policy(lead, shop, policy: str, inside: str, left: bool) -> None:
    settle(lead, voids=policy)
    item = mended(shop, HOLED_HOLLOW)
    assert states(shop, item.pk)["inside"] == inside
    assert ("sealed-voids" in kinds(item.pk)) is left
    told = " ".join(step["text"] for step in item.workpiece.current.steps)
    assert ("1 void filled" in told) is not left
    assert any("A person must decide" in one for one in item.workpiece.current.left) is (
        policy == "ask"
    )
    if policy == "keep":
        assert item.decisions.get().reason == KEPT_BY_SHOP


def test_debris_by_policy_and_by_the_shops_own_limits(lead, shop) -> None:
    settle(lead, debris="drop")
    item = mended(shop, CRUMBED)
    assert report_of(item.pk)["shells"] == 1
    # a crumb of 0.2 mm is none where the limit is smaller
    settle(lead, debris="drop", debris_size=0.01, debris_volume=0)
    item = mended(shop, CRUMBED)
    assert report_of(item.pk)["shells"] == 2
    assert "debris" not in kinds(item.pk)


def test_pieces_may_be_left_to_a_person(lead, shop) -> None:
    settle(lead, unite=False)
    item = mended(shop, b.soup(b.without(box(10), np.array([0])), moved(box(10), 5.3)))
    assert "overlapping-shells" in kinds(item.pk)


def test_a_persons_word_goes_before_the_shops(lead, shop) -> None:
    settle(lead, voids="keep")
    item = take_in(shop, binary_stl(hollow_box()))
    (kept,) = Decision.objects.all()
    assert kept.reason == KEPT_BY_SHOP
    back = shop.client.post(f"/api/decisions/{kept.pk}/withdraw", {"reason": "ask them"})
    assert back.status_code == 201
    assert states(shop, item)["inside"] == "your call"
    # what a person has taken back is not given again by itself
    operate(shop, item, "refine", size=5.0)
    assert work().state == "done"
    assert states(shop, item)["inside"] == "your call"
    assert accept(shop, item, "sealed-voids", "to float").status_code == 201
    assert states(shop, item)["inside"] == "waived"
