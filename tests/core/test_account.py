"""What the account of a change tells: how far the skin moved, and what was taken out."""

import json

import numpy as np
import pytest
import trimesh
from caulkcore import Mesh
from caulkcore.diagnose.diagnosis import Diagnosis
from caulkcore.mesh.changed_faces import changed_faces
from caulkcore.spatial.hausdorff import FLOOR
from caulkjob import examine, mend
from caulkjob.account import Account
from caulkjob.perform import perform
from harbour import breakers as b
from makers import box, sphere


def turned(mesh: Mesh) -> Mesh:
    return Mesh(mesh.vertices, mesh.faces[:, ::-1])


def open_box(size: tuple[float, float, float]) -> Mesh:
    whole = box(size)
    top = whole.vertices[whole.faces, 2].min(axis=1) == whole.vertices[:, 2].max()
    return Mesh(whole.vertices, whole.faces[~top])


@pytest.mark.parametrize(
    ("size", "reach"),
    [((100.0, 100.0, 100.0), 50.0), ((200.0, 20.0, 20.0), 10.0)],
    ids=["cube", "trough"],
)
def test_a_lid_moved_as_far_as_its_middle_is_from_the_rim(
    size: tuple[float, float, float], reach: float
) -> None:
    account = mend(open_box(size)).account
    low, high = account.deviation_bound_mm
    assert low <= reach <= high <= 1.01 * low
    assert account.max_deviation_mm == account.deviation_mm == high
    assert account.added_mm == [low, high]
    assert account.lost_mm == [0.0, 0.0]


def rod() -> Mesh:
    """A rod from within a box of 40 mm to beyond it, 5 mm thick."""
    solid = trimesh.creation.cylinder(2.5, 40.0, sections=48)
    return Mesh(solid.vertices + np.array([0.3, 0.2, 25.0]), solid.faces)


def scrap() -> Mesh:
    corners = np.array([[30.0, 0, 0], [31.0, 0, 0], [30.0, 1, 0]])
    return Mesh(corners, np.array([[0, 1, 2]]))


TAKEN = {
    "a crumb": (box(0.05, (60.0, 0, 0)), {"debris": "drop"}, 12),
    "a void": (turned(sphere(8.0)), {"voids": "fill"}, 1280),
    "a buried solid": (box(5.0, (3.0, 2.0, 1.0)), {"buried": "drop"}, 12),
}


@pytest.mark.parametrize("name", TAKEN)
def test_what_is_taken_out_whole_is_no_movement_of_the_skin(name: str) -> None:
    part, policy, faces = TAKEN[name]
    mended = mend(b.soup(box(40.0), part), **policy)
    account = mended.account
    assert mended.refused is None
    assert account.gone_faces == faces
    assert (account.taken_out.pieces, account.taken_out.faces) == (1, faces)
    assert account.taken_out.area_mm2 == pytest.approx(part.area)
    assert account.deviation_bound_mm == [0.0, 0.0]
    assert account.max_deviation_at is None


def test_what_lay_in_material_is_no_movement_when_pieces_become_one() -> None:
    mended = mend(b.soup(box(40.0), rod()))
    assert [step.operation for step in mended.steps] == ["unite"]
    # the rod's end lay 15 mm deep; what is left of both is where it was, but for rounding
    assert mended.account.deviation_bound_mm[0] < 1e-5
    assert mended.account.deviation_mm <= FLOOR
    assert mended.account.volume_mm3["after"] == pytest.approx(40.0**3 + 25 * rod().volume / 40)


def test_the_outer_skin_is_measured_though_a_crumb_goes_too() -> None:
    mended = mend(b.soup(open_box((40.0, 40.0, 40.0)), box(0.05, (60.0, 0, 0))), debris="drop")
    low, high = mended.account.deviation_bound_mm
    assert low <= 20.0 <= high <= 20.3
    assert mended.account.taken_out.pieces == 1


def test_a_piece_that_only_moved_is_not_taken_out() -> None:
    """A void that is drawn nearer by a thousandth is the same void, moved."""
    before = b.soup(box(40.0), turned(sphere(8.0)))
    moved = before.vertices.copy()
    moved[len(box().vertices) :] += 1e-5
    after = Mesh(moved, before.faces)
    account = Account.between(before, after, examine(before))
    assert account.taken_out.pieces == 0
    assert account.deviation_mm == pytest.approx(1e-5 * 3**0.5, rel=0.05)


def test_faces_that_only_turned_round_are_not_new() -> None:
    mesh = box()
    changed = Mesh(mesh.vertices, np.vstack([mesh.faces[:6, ::-1], mesh.faces[6:]]))
    assert not changed_faces(mesh, changed)[1].any()
    assert not changed_faces(mesh, mesh)[1].any()
    assert changed_faces(open_box((10.0, 10.0, 10.0)), box())[1].sum() == 2


def test_one_operation_tells_the_same_as_mending_by_it() -> None:
    mesh = open_box((30.0, 20.0, 10.0))
    assert perform(mesh, "fill-holes", {}).account == mend(mesh).account


def test_what_has_no_area_at_all_has_an_account_of_plain_numbers() -> None:
    corners = np.array([[0.0, 0, 0], [1, 0, 0], [2, 0, 0], [3, 0, 0]])
    line = Mesh(corners, np.array([[0, 1, 2], [1, 2, 3], [1, 2, 3]]))
    done = perform(line, "drop-zero-area", {})
    assert json.loads(json.dumps(done.account.as_json(), allow_nan=False))["gone_faces"] > 0
    assert done.account.touched_area_fraction == 0.0


def test_a_face_at_one_point_is_one_without_area() -> None:
    assert Diagnosis(Mesh(np.ones((3, 3)), np.array([[0, 1, 2]]))).degenerate_faces.tolist() == [0]
