"""How far any two revisions of an order are apart, through the API."""

import numpy as np
import pytest
from bench.models import Comparison, ItemJob
from caulkcore.mesh.simple_solids import cuboid
from makers import binary_stl, unpacked
from orders.models import Item
from test_path import item_of, take_in
from work.blobs import referred
from working import operate, work


@pytest.fixture
def scaled(shop) -> tuple[int, list[int]]:
    """A box as received, one and a half times and three times as large; keys of the revisions."""
    item = take_in(shop, binary_stl(cuboid((10.0, 10.0, 10.0))))
    for factor in (1.5, 2.0):
        assert operate(shop, item, "scale", factor=factor).status_code == 202
        assert work().state == "done"
    return item, [one.pk for one in Item.objects.get(pk=item).revisions.all()]


def _compare(shop, revision: int, against: int):
    address = f"/api/revisions/{revision}/comparisons"
    return shop.client.post(address, {"against": against}, format="json")


def _changes(shop, revision: int, against: int):
    return shop.client.get(f"/api/revisions/{revision}/comparisons/{against}/changes")


def test_two_of_which_neither_was_made_of_the_other_are_compared(shop, scaled) -> None:
    item, (received, _between, last) = scaled
    known = shop.client.get(f"/api/revisions/{last}/comparisons/{received}").data
    assert known == {"account": None, "job": None}
    asked = _compare(shop, last, received)
    assert asked.status_code == 200
    assert asked.data["job"]["state"] == "waiting"
    # who asks meanwhile waits for the same, and the item is free for other work
    assert _compare(shop, last, received).data["job"]["id"] == asked.data["job"]["id"]
    assert item_of(shop, item)["job"]["kind"] == "operate"
    assert item_of(shop, item)["job"]["state"] == "done"
    assert _changes(shop, last, received).status_code == 404
    assert work().state == "done"
    told = shop.client.get(f"/api/revisions/{last}/comparisons/{received}").data
    low, high = told["account"]["deviation_bound_mm"]
    assert low <= high <= low * 1.01 + 1e-3
    assert low == pytest.approx(_farthest(shop, received, last), rel=0.01)
    assert told["account"]["volume_mm3"]["before"] == pytest.approx(1000)
    packed = b"".join(_changes(shop, last, received).streaming_content)
    assert packed[:4] == b"IKCH"
    assert np.frombuffer(packed, "<u4", 1, 8)[0] == 12
    # it is computed once
    assert _compare(shop, last, received).data["account"]["deviation_bound_mm"] == [low, high]
    assert ItemJob.objects.filter(kind=ItemJob.Kind.COMPARE).count() == 1
    assert Comparison.objects.get().changes_path in referred()


def _farthest(shop, inner: int, outer: int) -> float:
    """Of nested boxes with parallel sides, the farthest that a corner of the outer one lies."""
    boxes = []
    for revision in (inner, outer):
        skin = b"".join(shop.client.get(f"/api/revisions/{revision}/skin").streaming_content)
        points = unpacked(skin)[0]
        boxes.append((points.min(axis=0), points.max(axis=0)))
    (low, high), (lowest, highest) = boxes
    away = np.maximum(np.abs(low - lowest), np.abs(highest - high))
    return float(np.linalg.norm(away))


def test_only_revisions_of_one_order_are_compared(shop, scaled) -> None:
    _item, (received, *_others) = scaled
    assert _compare(shop, received, received).status_code == 404
    assert _compare(shop, received, 999_999).status_code == 404
    assert _compare(shop, 999_999, received).status_code == 404
    answer = shop.client.post(f"/api/revisions/{received}/comparisons", {}, format="json")
    assert answer.status_code == 400


def test_a_variant_of_the_same_order_is_compared(shop, scaled) -> None:
    _item, (received, *_others) = scaled
    other = take_in(shop, binary_stl(cuboid((10.0, 10.0, 12.0))))
    variant = Item.objects.get(pk=other).workpiece.current_id
    assert _compare(shop, variant, received).status_code == 200
    assert work().state == "done"
    told = shop.client.get(f"/api/revisions/{variant}/comparisons/{received}").data
    assert told["account"]["deviation_mm"] == pytest.approx(2.0)


def test_a_comparison_that_was_stopped_is_begun_again(shop, scaled) -> None:
    _item, (received, _between, last) = scaled
    job = _compare(shop, last, received).data["job"]["id"]
    shop.client.post(f"/api/jobs/{job}/cancel")
    assert work(job).state == "cancelled"
    known = shop.client.get(f"/api/revisions/{last}/comparisons/{received}").data
    assert known["account"] is None
    assert known["job"]["state"] == "cancelled"
    assert _compare(shop, last, received).data["job"]["id"] != job
    assert work().state == "done"
