"""What lies inside: found by nesting, cleared without touching the rest."""

import numpy as np
import pytest
from caulkcore import Mesh
from caulkcore.progress import SILENT
from caulkjob import examine, mend
from caulkjob.operations import run_operation
from harbour import breakers as b
from makers import assert_tight_by_referees, box, sound, sphere


def inward(mesh: Mesh) -> Mesh:
    return Mesh(mesh.vertices, mesh.faces[:, ::-1])


def matryoshka() -> Mesh:
    """A ball with a void, in it a loose ball with a void of its own, and a crumb far off."""
    shells = [sphere(20, 3), inward(sphere(15, 3)), sphere(10, 2), inward(sphere(5, 2))]
    return b.soup(*shells, box(0.2, (40, 0, 0)))


def found(mesh: Mesh) -> dict[str, int]:
    return {f.kind: f.count for f in examine(mesh).findings}


@pytest.mark.parametrize(
    ("what", "mesh", "expected"),
    [
        ("a void", lambda: sound("hollow box"), {"sealed-voids": 1}),
        ("a buried solid", lambda: b.soup(box(), box(4)), {"buried-shells": 1}),
        ("a ball loose in a void", lambda: b.soup(sound("hollow box"), box(1)),
         {"sealed-voids": 1, "loose-parts": 2}),
        ("nested deeply", matryoshka, {"sealed-voids": 2, "debris": 1, "loose-parts": 2}),
        ("side by side", lambda: b.soup(box(), box(10, (20, 0, 0))), {"loose-parts": 2}),
        ("a crumb inside", lambda: b.soup(box(40), box(0.2, (3, 0, 0))), {"debris": 1}),
        ("a tiny part alone", lambda: box(0.2), {"too-small": 1}),
        ("two tiny parts", lambda: b.soup(box(0.2), box(0.2, (4, 0, 0))), {"loose-parts": 2}),
    ],
)  # fmt: skip
def test_what_is_inside(what: str, mesh, expected: dict[str, int]) -> None:
    assert found(mesh()) == expected
    assert examine(mesh()).tight, "all of it is for a person to decide"


@pytest.mark.parametrize(
    ("operation", "mesh", "volume", "kind"),
    [
        ("fill-voids", lambda: sound("hollow box"), 1000, "sealed-voids"),
        ("drop-buried", lambda: b.soup(box(), box(4)), 1000, "buried-shells"),
        ("drop-debris", lambda: b.soup(box(40), box(0.2, (30, 0, 0))), 64000, "debris"),
        ("fill-voids", lambda: b.soup(sound("hollow box"), box(1)), 1000, "sealed-voids"),
    ],
)
def test_clearing_leaves_the_outer_skin_bit_for_bit(operation, mesh, volume, kind) -> None:
    before = mesh()
    outcome = run_operation(before, operation, {}, SILENT)
    assert kind not in found(outcome.mesh)
    assert_tight_by_referees(outcome.mesh, volume, 1e-9)
    assert len(outcome.mesh.faces) == 12
    corners = {tuple(map(tuple, c)) for c in before.vertices[before.faces].tolist()}
    kept = outcome.mesh.vertices[outcome.mesh.faces].tolist()
    assert all(tuple(map(tuple, c)) in corners for c in kept)


def test_one_void_alone_takes_with_it_what_lies_inside() -> None:
    mesh = matryoshka()
    largest = run_operation(mesh, "fill-voids", {"places": [1]}, SILENT)
    assert found(largest.mesh) == {"debris": 1}
    smallest = run_operation(mesh, "fill-voids", {"places": [2]}, SILENT)
    assert found(smallest.mesh) == {"sealed-voids": 1, "debris": 1, "loose-parts": 2}


@pytest.mark.parametrize(
    ("policy", "refused", "shells"), [("keep", False, 2), ("fill", False, 1), ("ask", True, 2)]
)
def test_voids_by_policy(policy, refused: bool, shells: int) -> None:
    outcome = mend(sound("hollow box"), voids=policy)
    assert (outcome.refused is not None) is refused
    assert outcome.after.shells == shells


def test_many_crumbs_are_all_found() -> None:
    rng = np.random.default_rng(3)
    at = rng.uniform(30, 60, size=(300, 3)) * np.array([1, 1, 6])
    mesh = b.soup(box(40), *(box(0.1, tuple(p)) for p in at))
    assert found(mesh) == {"debris": 300}
