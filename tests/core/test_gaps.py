import numpy as np
import pytest
from caulkcore import Mesh
from caulkcore.progress import SILENT
from caulkjob import examine
from caulkjob.operations import run_operation
from harbour import breakers as b
from makers import assert_tight_by_referees, box, hollow_box, sphere


def closed(mesh: Mesh, **given):
    return run_operation(mesh, "close-gaps", given, SILENT)


def at(mesh: Mesh, x: float, y: float = 0.0, z: float = 0.0) -> Mesh:
    return Mesh(mesh.vertices + np.array([x, y, z]), mesh.faces)


@pytest.mark.parametrize("gap", [0.003, 0.03, 0.049])
def test_the_smaller_piece_goes_over_the_gap_and_the_larger_stays(gap: float) -> None:
    large = box(20)
    mesh = b.soup(at(box(10), 15 + gap, 1.3, 2.1), large)
    outcome = closed(mesh)
    assert outcome.numbers["farthest_mm"] == pytest.approx(gap + 0.02, rel=1e-3)
    report = examine(outcome.mesh)
    assert report.shells == 1
    assert not report.findings
    assert_tight_by_referees(outcome.mesh, 8000 + 1000 - 100 * 0.02, 1e-6)
    kept = {tuple(v) for v in outcome.mesh.vertices.tolist()}
    assert {tuple(v) for v in large.vertices.tolist()} <= kept


def test_hollows_go_with_their_piece() -> None:
    mesh = b.soup(at(hollow_box(), 15.02), box(20))
    outcome = closed(mesh, overlap=0.1)
    assert_tight_by_referees(outcome.mesh, 8000 + 1000 - 64 - 100 * 0.1, 1e-6)
    assert examine(outcome.mesh).shells == 2


def test_one_gap_of_two() -> None:
    mesh = b.soup(box(20), at(box(8), 14.01), at(sphere(4), 0, 0, 14.02))
    assert examine(mesh, questions=("solid",)).pieces.what.count("outer skin") == 3
    outcome = closed(mesh, places=[1])
    assert examine(outcome.mesh).shells == 2
    assert examine(closed(mesh).mesh).shells == 2, "the large one is moved or joined once a time"


def test_without_a_gap_nothing_moves() -> None:
    mesh = b.soup(box(20), at(box(8), 30.0))
    assert closed(mesh).mesh is mesh
