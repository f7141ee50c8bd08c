"""Pieces combined, and other models of the order brought in, through the API."""

import pytest
from caulkcore import Mesh
from caulkcore.mesh.concatenate import concatenate
from caulkcore.mesh.simple_solids import cuboid
from makers import binary_stl
from orders.models import Customer, Item, Order
from test_path import item_of, take_in
from working import operate, report_of, work


@pytest.fixture
def two(shop) -> tuple[int, int]:
    """A box and a peg that reaches into it, items of one order."""
    peg = cuboid((4.0, 4.0, 4.0), at=(3.0, 3.0, 8.0))
    return take_in(shop, binary_stl(cuboid())), take_in(shop, binary_stl(peg))


def _current(item: int) -> int:
    return Item.objects.get(pk=item).workpiece.current_id


@pytest.mark.parametrize(
    ("operation", "volume", "shells"),
    [("join-files", 1064, 2), ("unite", 1032, 1), ("subtract", 968, 1), ("intersect", 32, 1)],
)
def test_another_model_of_the_order_comes_in(shop, two, operation, volume, shells) -> None:
    box, peg = two
    assert operate(shop, box, operation, others=[_current(peg)]).status_code == 202
    assert work().state == "done"
    report = report_of(box)
    assert report["volume_mm3"] == pytest.approx(volume)
    assert report["shells"] == shells
    # the other item stays what it is
    assert len(item_of(shop, peg)["revisions"]) == 1


def test_models_brought_in_are_called_as_their_items(shop, two) -> None:
    box, peg = two
    Item.objects.filter(pk=box).update(name="Housing")
    Item.objects.filter(pk=peg).update(name="Peg")
    operate(shop, box, "join-files", others=[_current(peg)])
    assert work().state == "done"
    assert {p["name"] for p in report_of(box)["pieces"]} == {"Housing", "Peg"}


def test_a_model_of_another_order_does_not_come_in(shop, two, lead) -> None:
    box, peg = two
    customer = Customer.objects.create(name="Somebody else")
    other = Order.objects.create(number="9-999", customer=customer, due="2031-01-01T12:00Z")
    Item.objects.filter(pk=peg).update(order=other)
    answer = operate(shop, box, "join-files", others=[_current(peg)])
    assert answer.status_code == 409
    assert "none of this order" in answer.data["detail"]
    assert operate(shop, box, "join-files", others=[999_999]).status_code == 409
    assert operate(shop, box, "join-files").status_code == 400


def test_pieces_are_combined_by_the_numbers_that_people_know(shop) -> None:
    three = concatenate([cuboid(), cuboid(at=(5.0, 4.0, 3.0)), cuboid(at=(40.0, 0.0, 0.0))])
    item = take_in(shop, binary_stl(Mesh(three.vertices, three.faces)))
    overlapping = [p["number"] for p in report_of(item)["pieces"] if p["shell"] in (0, 1)]
    assert operate(shop, item, "unite", pieces=overlapping).status_code == 202
    assert work().state == "done"
    assert report_of(item)["shells"] == 2
    assert report_of(item)["volume_mm3"] == pytest.approx(2790)


def test_a_model_is_cut_where_the_plane_stands(shop) -> None:
    item = take_in(shop, binary_stl(cuboid()))
    given = {"point": [0, 0, 4], "normal": [0, 0, 1], "spacing": 1}
    assert operate(shop, item, "cut", **given).status_code == 202
    assert work().state == "done"
    report = report_of(item)
    assert report["tight"]
    assert sorted(p["volume_mm3"] for p in report["pieces"]) == pytest.approx([400, 600])
    wrong = operate(shop, item, "cut", point=[0, 0], normal=[0, 0, 1])
    assert wrong.status_code == 400
