"""What goes to the screen is the mesh, to the last triangle, in few bytes."""

import io

import numpy as np
import pytest
from bench._packing_kernels import distances_back
from bench.packing import load, pack_marks, pack_skin, report_for_screen, save, screen_order
from caulkcore import Mesh
from caulkcore.mesh.renumber import number_as_met
from caulkjob import examine
from harbour import breakers as b
from makers import box, sound, sphere, unpacked


def corners_of(mesh: Mesh) -> np.ndarray:
    return mesh.vertices[mesh.faces]


MESHES = {
    "a box": box,
    "one triangle": lambda: Mesh(np.eye(3), np.array([[0, 1, 2]])),
    "flat": lambda: Mesh(np.array([[0, 0, 5], [4, 0, 5], [0, 3, 5.0]]), np.array([[0, 1, 2]])),
    "far from the origin": lambda: Mesh(box().vertices + 1e6, box().faces),
    "tiny": lambda: Mesh(box().vertices * 1e-6, box().faces),
    "a torus": lambda: sound("torus"),
    "pieces": lambda: b.soup(box(), box(4), sphere(3, 2), box(1, (30, 0, 0))),
    "copies and flat faces": lambda: b.with_flat_faces(b.doubled(box(), np.array([3, 7])), 4, 1),
    "a soup": lambda: b.soup(
        *(
            Mesh(np.random.default_rng(i).normal(size=(3, 3)), np.array([[0, 1, 2]]))
            for i in range(40)
        )
    ),
}


@pytest.mark.parametrize("what", MESHES)
def test_the_skin_holds_every_triangle(what: str) -> None:
    mesh = MESHES[what]()
    report = examine(mesh)
    order = screen_order(report.mesh)
    points, faces, starts = unpacked(pack_skin(report, order))
    assert sorted(order.tolist()) == list(range(len(mesh.faces)))
    off = np.abs(points[faces] - corners_of(mesh)[order])
    assert (off <= mesh.size / 2**21 + 1e-9 * np.abs(mesh.bounds).max()).all()
    # the faces stand shell by shell, those of none last
    of_face = report.pieces.of_face[order]
    assert starts[0] == 0
    for shell in range(report.shells):
        assert (of_face[starts[shell] : starts[shell + 1]] == shell).all()
    assert (of_face[starts[-1] :] == -1).all()


def test_equal_points_stay_equal() -> None:
    """A crack of no width must not open on the screen."""
    mesh = b.soup(sphere(), Mesh(sphere().vertices + np.array([7.0, 0, 0]), sphere().faces))
    loose = Mesh(corners_of(mesh).reshape(-1, 3), np.arange(len(mesh.faces) * 3).reshape(-1, 3))
    report = examine(loose)
    points, faces, _ = unpacked(pack_skin(report, screen_order(report.mesh)))
    assert len(np.unique(points[faces].reshape(-1, 3), axis=0)) == len(mesh.vertices)


@pytest.mark.parametrize("shuffled", [False, True])
def test_it_takes_at_most_twelve_bytes_a_triangle(shuffled: bool) -> None:
    mesh = sphere(20, 5)
    if shuffled:
        mesh = Mesh(mesh.vertices, np.random.default_rng(1).permutation(mesh.faces))
    report = examine(mesh)
    assert len(pack_skin(report, screen_order(report.mesh))) < 12 * len(mesh.faces)


def test_marks_name_faces_as_the_screen_has_them() -> None:
    mesh = b.turned(b.without(sphere(), b.near(sphere(), (0, 0, 20), 6)), np.array([900, 901]))
    report = examine(mesh)
    order = screen_order(report.mesh)
    marks = pack_marks(report, order)
    assert marks[:4] == b"IKMK"
    places = [p for f in report.findings for p in f.places]
    version, count = np.frombuffer(marks, "<u4", 2, 4)
    assert (version, count) == (1, len(places))
    sizes = np.frombuffer(marks, "<u4", 2 * count, 12).reshape(-1, 2)
    lines, faces = sizes.sum(axis=0)
    at = 12 + 8 * count
    points = np.frombuffer(marks, "<f4", lines * 6, at).reshape(-1, 2, 3) + mesh.bounds.mean(axis=0)
    named = np.frombuffer(marks, "<u4", faces, at + 24 * lines)
    assert order[named].tolist() == np.concatenate([p.faces for p in places]).tolist()
    rim = np.concatenate([mesh.vertices[p.lines] for p in places])
    assert points == pytest.approx(rim, abs=1e-5)
    assert len(marks) == at + 24 * lines + 4 * faces


@pytest.mark.parametrize(
    ("corners", "packed"),
    [
        ([0, 1, 2], [0, 0, 0]),
        ([0, 1, 2, 2, 1, 0], [0, 0, 0, 1, 2, 3]),
        ([*range(200), 0, 72, 73], [*[0] * 200, 200 & 127 | 128, 1, 128, 1, 127]),
    ],
)
def test_corners_as_distances_back(corners: list[int], packed: list[int]) -> None:
    assert distances_back(np.array(corners, dtype=np.int32)).tolist() == packed


def test_vertices_are_numbered_as_they_are_met() -> None:
    met, corners = number_as_met(np.array([[4, 2, 5], [5, 2, 0]], dtype=np.int32), 7)
    assert met.tolist() == [4, 2, 5, 0]
    assert corners.tolist() == [0, 1, 2, 2, 1, 3]


def test_the_report_for_the_screen_lists_spots_and_pieces() -> None:
    report = examine(b.soup(box(40), box(4), box(0.2, (50, 0, 0))))
    told = report_for_screen(report)
    assert [p["what"] for p in told["pieces"]] == ["outer skin", "buried solid", "debris"]
    for line, finding in zip(told["findings"], report.findings, strict=True):
        assert len(line["spots"]) == len(finding.places)
        assert {
            "title",
            "measure",
            "count",
            "box",
            "at",
            "facing",
            "thickness_mm",
            "limit_mm",
            "adds_mm3",
            "shift_mm",
            "area_mm2",
            "value",
            "stands_for",
            "pieces",
        } == set(line["spots"][0])


def test_a_mesh_at_rest_comes_back_bit_for_bit() -> None:
    mesh = sound("torus")
    stream = io.BytesIO()
    save(mesh, stream)
    stream.seek(0)
    back = load(stream)
    assert np.array_equal(back.vertices, mesh.vertices)
    assert np.array_equal(back.faces, mesh.faces)
