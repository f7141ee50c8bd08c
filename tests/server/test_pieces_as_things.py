"""Pieces named, kept apart from their places, and made items of their own, through the API."""

import io
import zipfile

import pytest
from bench.models import ItemJob
from bench.packing import load_labelled
from caulkcore import Mesh
from caulkcore.mesh.concatenate import concatenate
from caulkcore.mesh.simple_solids import cuboid
from django.core.files.storage import default_storage
from makers import binary_stl
from orders.models import Item
from test_path import item_of, take_in
from work.models import Job
from working import accept, do, operate, release, report_of, work

THREE = concatenate(
    [cuboid(), cuboid((6.0, 6.0, 6.0), at=(30.0, 0.0, 0.0)), cuboid((3.0, 9.0, 4.0), at=(50, 0, 0))]
)


@pytest.fixture
def item(shop) -> int:
    return take_in(shop, binary_stl(Mesh(THREE.vertices, THREE.faces)))


def _call(shop, item: int, number: int, name: str):
    address = f"/api/items/{item}/pieces/{number}"
    return shop.client.put(address, {"name": name}, format="json")


def _numbers(item: int) -> dict[float, int]:
    """The number of each piece, by its volume."""
    return {round(p["volume_mm3"]): p["number"] for p in report_of(item)["pieces"]}


def test_a_name_goes_with_its_piece_through_all_revisions(shop, lead, item) -> None:
    small = _numbers(item)[108]
    assert _call(shop, item, small, "Cleat").status_code == 204
    operate(shop, item, "drop-pieces", pieces=[_numbers(item)[216]])
    work()
    operate(shop, item, "move", by=[-70, 0, 0], pieces=[small])
    work()
    assert _numbers(item)[108] == small
    assert item_of(shop, item)["piece_names"] == {str(small): "Cleat"}
    assert any(
        one["text"] == f"piece {small} called “Cleat”" for one in lead.get("/api/trail").data
    )
    assert _call(shop, item, small, "").status_code == 204
    assert item_of(shop, item)["piece_names"] == {}
    assert _call(shop, item, 77, "Nothing").status_code == 409


def test_parts_of_a_cut_are_released_under_their_own_names(shop) -> None:
    item = take_in(shop, binary_stl(cuboid((40.0, 30.0, 30.0))))
    given = {"point": [0, 0, 14], "normal": [0, 0, 1], "joint": "keyed"}
    operate(shop, item, "cut", **given)
    assert work().state == "done"
    (larger, one), (smaller, two) = sorted(_numbers(item).items())[::-1]
    assert larger > smaller
    _call(shop, item, one, "Upper half")
    _call(shop, item, two, "Lower half")
    reason = {"pieces": [one, two], "reason": "made to be put together"}
    assert do(shop, item, "apart", **reason).status_code in (200, 201)
    for finding in report_of(item)["findings"]:
        if finding["severity"] == "call":
            assert accept(shop, item, finding["kind"]).status_code == 201
    answer = release(shop, item, "3mf")
    assert answer.status_code == 202, answer.data
    assert work().state == "done"
    last = item_of(shop, item)["releases"][-1]["id"]
    file = b"".join(shop.client.get(f"/api/releases/{last}/file").streaming_content)
    with zipfile.ZipFile(io.BytesIO(file)) as package:
        model = package.read("3D/3dmodel.model").decode()
    assert 'name="Upper half"' in model
    assert 'name="Lower half"' in model


def _derive(shop, item: int, **given):
    return do(shop, item, "pieces", **{"name": "Cleat", "pieces": [], **given})


def test_a_piece_becomes_an_item_of_its_own_and_the_rest_stays(shop, item) -> None:
    small = _numbers(item)[108]
    _call(shop, item, small, "The cleat")
    volume = report_of(item)["volume_mm3"]
    answer = _derive(shop, item, pieces=[small], take_out=True)
    assert answer.status_code == 201
    for job in ItemJob.objects.filter(state__in=Job.OPEN).values_list("pk", flat=True):
        assert work(job).state == "done"
    made = answer.data["items"][0]["id"]
    assert report_of(made)["volume_mm3"] + report_of(item)["volume_mm3"] == pytest.approx(
        volume, rel=1e-9
    )
    told = item_of(shop, made)
    assert told["name"] == "Cleat"
    assert told["piece_names"] == {str(small): "The cleat"}
    assert _numbers(made) == {108: small}
    assert [one["number"] for one in told["revisions"]] == [0]
    assert "revision 0" in told["revisions"][0]["title"]
    # it is worked on like any other
    operate(shop, made, "scale", factor=2)
    assert work().state == "done"
    assert report_of(made)["volume_mm3"] == pytest.approx(8 * 108)
    assert shop.client.get(f"/api/items/{made}/received").status_code == 200


def test_each_piece_becomes_an_item_in_one_go_and_they_come_together_again(shop, item) -> None:
    numbers = _numbers(item)
    _call(shop, item, numbers[216], "Bitt")
    answer = _derive(shop, item, name="", each=True, pieces=list(numbers.values()))
    assert answer.status_code == 201, answer.data
    assert answer.data["job"] is None
    names = [one["name"] for one in answer.data["items"]]
    assert "Bitt" in names
    assert len(set(names)) == 3
    for job in ItemJob.objects.filter(state__in=Job.OPEN).values_list("pk", flat=True):
        assert work(job).state == "done"
    made = [one["id"] for one in answer.data["items"]]
    assert sorted(round(report_of(one)["volume_mm3"]) for one in made) == [108, 216, 1000]
    # nothing of them is lost: they rejoin to the same, bit for bit
    first, *others = made
    keys = [item_of(shop, one)["current"] for one in others]
    operate(shop, first, "join-files", others=keys)
    assert work().state == "done"
    assert _corners(first) == _corners(item)
    # what was split off, or joined, is a revision like others
    assert do(shop, first, "current", to=0).status_code == 204
    assert report_of(first)["shells"] == 1


def _corners(item: int) -> list[tuple[float, ...]]:
    """All corners of the faces of an item as it is now, sorted."""
    path = Item.objects.get(pk=item).workpiece.current.mesh_path
    with default_storage.open(path) as stream:
        mesh, _ = load_labelled(stream)
    return sorted(map(tuple, mesh.vertices[mesh.faces].reshape(-1, 9).tolist()))


def test_a_variant_of_the_whole_needs_no_other_upload(shop, item) -> None:
    made = _derive(shop, item, name="Variant").data["items"][0]["id"]
    assert work().state == "done"
    assert report_of(made)["shells"] == 3
    assert Item.objects.get(pk=made).order_id == shop.order.pk
    assert len(item_of(shop, item)["revisions"]) == 1


@pytest.mark.parametrize(
    ("given", "words"),
    [
        ({"pieces": [99]}, "no such piece"),
        ({"take_out": True}, "Nothing would be left"),
        ({"pieces": [1, 2, 3], "take_out": True}, "Nothing would be left"),
        ({"revision": 999_999}, "moved this item on"),
        ({"pieces": [1, 2, 3], "each": True, "take_out": True}, "Nothing would be left"),
    ],
)
def test_what_cannot_become_an_item_says_why(shop, item, given, words) -> None:
    before = Item.objects.count()
    answer = _derive(shop, item, **given)
    assert answer.status_code == 409
    assert words in answer.data["detail"]
    assert Item.objects.count() == before
    assert not ItemJob.objects.filter(state__in=Job.OPEN).exists()


def test_copies_and_turned_pieces_keep_their_names_in_the_file(shop, item) -> None:
    numbers = _numbers(item)
    operate(shop, item, "copy", by=[0, 40, 0], count=2, pieces=[numbers[216]])
    assert work().state == "done"
    assert report_of(item)["shells"] == 5
    assert {n for v, n in _numbers(item).items()} >= {numbers[1000], numbers[108]}
    operate(shop, item, "turn", degrees=90, pieces=[numbers[1000]])
    assert work().state == "done"
    assert _numbers(item)[1000] == numbers[1000]


def test_a_piece_goes_back_where_it_was_when_it_came(shop, item) -> None:
    numbers = _numbers(item)
    received, corners = item_of(shop, item)["current"], _corners(item)
    operate(shop, item, "turn", degrees=30, axis=[1, 1, 0], pieces=[numbers[216]])
    assert work().state == "done"
    assert _corners(item) != corners
    operate(shop, item, "put-back", others=[received], pieces=[numbers[216]])
    assert work().state == "done"
    assert _corners(item) == corners
    assert _numbers(item) == numbers


def test_items_of_an_order_that_are_scaled_otherwise_are_pointed_out(shop, item) -> None:
    other = take_in(shop, binary_stl(cuboid()))
    third = take_in(shop, binary_stl(cuboid((4.0, 4.0, 4.0))))
    told = shop.client.get(f"/api/items/{item}/siblings").data
    assert (told["factor"], told["unequal"], told["equal"]) == (1.0, [], 2)
    operate(shop, other, "scale", factor=2.5)
    work()
    operate(shop, other, "move", by=[1, 0, 0])
    work()
    operate(shop, third, "set-unit", unit="in")
    work()
    told = shop.client.get(f"/api/items/{item}/siblings").data
    factors = {one["id"]: one["factor"] for one in told["unequal"]}
    assert factors == {other: pytest.approx(2.5), third: pytest.approx(25.4)}
    # what was gone back from does not count
    first = item_of(shop, other)["revisions"][0]["number"]
    assert do(shop, other, "current", to=first).status_code in (200, 204)
    told = shop.client.get(f"/api/items/{item}/siblings").data
    assert {one["id"] for one in told["unequal"]} == {third}
    assert told["equal"] == 1


def test_two_pieces_are_measured_once_for_everybody(shop) -> None:
    boxes = [cuboid(), cuboid(at=(10.25, 2.0, 3.0)), cuboid(at=(-9.0, 2.0, 3.0))]
    row = concatenate(boxes)
    item = take_in(shop, binary_stl(Mesh(row.vertices, row.faces)))
    revision = Item.objects.get(pk=item).workpiece.current_id
    address = f"/api/revisions/{revision}/clearances"

    def ask(*pieces: int):
        return shop.client.post(address, {"pieces": pieces}, format="json")

    by_place = {round(p["shell"]): p["number"] for p in report_of(item)["pieces"]}
    middle, right, left = (by_place[shell] for shell in (0, 1, 2))
    assert shop.client.get(f"{address}/{middle}/{right}").data["told"] is None
    assert ask(right, middle).data["told"] is None
    assert ask(middle, right).data["job"]["kind"] == "measure"
    assert work().state == "done"
    told = ask(middle, right).data["told"]
    assert told["gap_mm"] == pytest.approx(0.25)
    assert [end[0] for end in told["ends"]] == pytest.approx([10.0, 10.25])
    facing = told["facing"]
    # as many points as are over the other one
    assert facing["area_mm2"] == pytest.approx(56.0, rel=0.01)
    assert (facing["mean_mm"], facing["most_mm"]) == pytest.approx((0.25, 0.25))
    assert not ItemJob.objects.filter(state__in=Job.OPEN).exists()
    ask(left, middle)
    assert work().state == "done"
    told = shop.client.get(f"{address}/{middle}/{left}").data["told"]
    assert (told["gap_mm"], told["shared_mm3"]) == (0.0, pytest.approx(56.0))
    assert told["depth_mm"] == pytest.approx(1.0)
    assert ask(middle, middle).status_code == 409
    assert ask(middle, 99).status_code == 409
