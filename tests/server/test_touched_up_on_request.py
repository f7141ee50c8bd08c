"""What is chosen, measured and noted on the screen, through the API."""

import numpy as np
import pytest
from bench.models import Measure
from bench.packing import load, screen_order
from caulkcore import Mesh
from caulkcore.mesh.face_runs import runs_of_faces
from caulkcore.mesh.simple_solids import cuboid
from caulkcore.remesh.subdivide import subdivide
from django.core.files.storage import default_storage
from makers import binary_stl, unpacked
from orders.models import Item
from test_path import item_of, take_in
from test_trail import trail
from working import operate, report_of, work

LINE = [[0.0, 0.0, 0.0], [10.0, 0.0, 0.0]]
MEASURED = {"kind": "distance", "value": 10.0, "between": "corner to corner", "line": LINE}


@pytest.fixture
def boxes(shop) -> int:
    """Two boxes of many faces, in an order that is not the screen's."""
    one = subdivide(cuboid(), size=2.0, rounded=False).mesh
    two = cuboid((4.0, 4.0, 4.0), at=(30.0, 0.0, 0.0))
    vertices = np.concatenate([one.vertices, two.vertices])
    faces = np.concatenate([one.faces, two.faces + len(one.vertices)])
    mixed = np.random.default_rng(4).permutation(len(faces))
    return take_in(shop, binary_stl(Mesh(vertices, faces[mixed])))


def _mesh(item: int) -> Mesh:
    current = Item.objects.get(pk=item).workpiece.current
    with default_storage.open(current.mesh_path) as stream:
        return load(stream)


def _skin(shop, item: int) -> np.ndarray:
    """Corners of the faces as the screen has them, mm."""
    current = item_of(shop, item)["current"]
    answer = shop.client.get(f"/api/revisions/{current}/skin")
    points, faces, _ = unpacked(b"".join(answer.streaming_content))
    return points[faces]


def test_faces_chosen_on_the_screen_are_those_that_go(shop, boxes) -> None:
    corners = _skin(shop, boxes)
    small = corners[:, :, 0].min(axis=1) > 29
    assert small.sum() == 12
    assert operate(shop, boxes, "erase", faces=runs_of_faces(small)).status_code == 202
    assert work().state == "done"
    assert report_of(boxes)["volume_mm3"] == pytest.approx(1000)
    assert Item.objects.get(pk=boxes).workpiece.examination.tight


def test_the_order_of_the_screen_is_that_of_the_stored_skin(shop, boxes) -> None:
    mesh = _mesh(boxes)
    ours = mesh.vertices[mesh.faces[screen_order(mesh)]]
    assert _skin(shop, boxes) == pytest.approx(ours, abs=1e-4)


def test_what_was_chosen_on_an_earlier_revision_is_refused(shop, boxes) -> None:
    seen = item_of(shop, boxes)["current"]
    assert operate(shop, boxes, "push", faces=[0, 5], distance=0.1).status_code == 202
    assert work().state == "done"
    given = {"revision": seen, "operation": "erase", "parameters": {"faces": [0, 5]}}
    assert shop.client.post(f"/api/items/{boxes}/operate", given).status_code == 409


@pytest.mark.parametrize(
    ("faces", "words"),
    [([], "cannot be"), ([1], "cannot be"), ("all", "cannot be"), (None, "must be given")],
)
def test_what_are_no_faces_is_refused_at_once(shop, boxes, faces, words) -> None:
    answer = operate(shop, boxes, "erase", faces=faces)
    assert answer.status_code == 400
    assert words in answer.data["detail"]


def test_faces_that_are_not_there_fail_in_words(shop, boxes) -> None:
    assert operate(shop, boxes, "erase", faces=[0, 99999]).status_code == 202
    job = work()
    assert job.state == "refused"
    assert job.message == "What was chosen are no faces of this revision."


def test_pieces_are_taken_out_by_the_numbers_that_people_know(shop, boxes) -> None:
    assert operate(shop, boxes, "drop-pieces", pieces=[1]).status_code == 202
    assert work().state == "done"
    (left,) = report_of(boxes)["pieces"]
    # the number stays its own, though it is the first shell by now
    assert (left["shell"], left["number"]) == (0, 2)
    assert operate(shop, boxes, "extract", pieces=[1]).status_code == 202
    job = work()
    assert (job.state, job.message) == ("refused", "There is no piece 0.")


def test_a_measure_is_kept_named_and_let_go(shop, boxes) -> None:
    address = f"/api/revisions/{item_of(shop, boxes)['current']}/measures"
    made = shop.client.post(address, MEASURED)
    assert made.status_code == 201, made.data
    one = f"/api/measures/{made.data['id']}"
    assert shop.client.patch(one, {"name": "base"}).data["name"] == "base"
    (kept,) = shop.client.get(address).data
    assert (kept["name"], kept["value"], kept["line"]) == ("base", 10.0, LINE)
    assert kept["by"] == "Ane Vik"
    for _ in range(2):
        # who lets go of what another has let go of has what he wants
        assert shop.client.delete(one).status_code == 204
    assert shop.client.get(address).data == []
    told = [one for one in trail(shop.client, f"/api/items/{boxes}/trail") if "measure" in one]
    assert len(told) == 3


@pytest.mark.parametrize(
    "change",
    [
        {"kind": "guess"},
        {"value": -1},
        {"value": "wide"},
        {"line": [[0, 0, 0]]},
        {"line": [[0, 0], [1, 1]]},
        {"line": [[0, 0, 1e9], [0, 0, 0]]},
        {"between": "x" * 201},
    ],
)
def test_what_is_no_measure_is_refused(shop, boxes, change) -> None:
    address = f"/api/revisions/{item_of(shop, boxes)['current']}/measures"
    assert shop.client.post(address, {**MEASURED, **change}).status_code == 400


def test_measures_are_kept_up_to_a_limit(shop, boxes, monkeypatch) -> None:
    monkeypatch.setattr("bench.notes.MOST_MEASURES", 2)
    address = f"/api/revisions/{item_of(shop, boxes)['current']}/measures"
    assert [shop.client.post(address, MEASURED).status_code for _ in range(3)] == [201, 201, 409]
    assert Measure.objects.count() == 2


def test_a_revision_is_named_and_noted(shop, boxes) -> None:
    current = item_of(shop, boxes)["current"]
    for name, note in (("first", ""), ("as agreed", "by phone, Thursday")):
        body = {"name": name, "note": note}
        assert shop.client.put(f"/api/revisions/{current}/note", body).status_code == 204
    (line,) = item_of(shop, boxes)["revisions"]
    assert (line["name"], line["note"]) == ("as agreed", "by phone, Thursday")
    told = trail(shop.client, f"/api/items/{boxes}/trail")
    assert any("revision 0 called “as agreed”: “by phone, Thursday”" in one for one in told)
