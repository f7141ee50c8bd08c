"""Soups through reading, examination, every remedy and the plan: nothing falls, nothing is worse.

Set IRONCAULK_SOUPS to a number to try so many, and IRONCAULK_SOUPS_FROM to begin elsewhere.
"""

import io
import logging
import os
from dataclasses import replace

import numpy as np
import pytest
from caulkcore import CaulkError, Mesh, RefusedInput
from caulkcore.diagnose.diagnosis import Diagnosis
from caulkcore.diagnose.harm import harm_counts
from caulkcore.io import stl
from caulkcore.mesh.weld import welded
from caulkjob import examine, mend
from caulkjob.mended import Mended
from caulkjob.operations import OPERATIONS
from caulkjob.perform import perform
from caulkjob.rule_sheets import usual_rule_sheet
from makers import assert_tight_by_referees
from soups import SMALLEST, soup

FIRST = int(os.environ.get("IRONCAULK_SOUPS_FROM", "0"))
COUNT = int(os.environ.get("IRONCAULK_SOUPS", "160"))
_RULES = usual_rule_sheet("sintered-nylon")
_SPOT = [[4.0, 4.0, 4.0, 6.0]]
GIVEN = {
    "set-unit": {"unit": "cm", "was": "mm"},
    "build-up": {"to": 0.8},
    "thicken-necks": {"to": 0.8},
    "set-apart": {"clearance": 0.4, "narrower": 0.8},
    "reduce": {"percent": 50.0},
    "refine": {"region": _SPOT, "size": 2.0},
    "smooth": {"region": _SPOT, "rounds": 2},
    "even-out": {"region": _SPOT, "size": 2.0},
    **{name: {"faces": [0, 2]} for name in ("erase", "delete-faces", "close-here", "turn-faces")},
    "push": {"faces": [0, 2], "distance": 0.5, "falloff": 3.0},
    "flatten": {"faces": [0, 3]},
    "separate": {"faces": [0, 2], "gap": 0.1},
    "scale": {"factor": 1.5},
    "drop-pieces": {"pieces": [1]},
    "extract": {"pieces": [1]},
    "join-files": {"others": [soup(7)]},
    "put-back": {"others": [soup(7)]},
    "subtract": {"pieces": [1]},
    "intersect": {"pieces": [1, 2]},
    "cut": {"point": [6.0, 6.0, 6.0], "normal": [1.0, 2.0, 3.0]},
    "cut-to-fit": {"room": [6.0, 9.0, 9.0]},
    "cut-along": {
        "line": [[0.0, 5.0, 0.0], [6.0, 7.0, 0.0], [12.0, 3.0, 0.0]],
        "direction": [0.1, 0.2, 1.0],
    },
    "cut-out": {"at": [6.0, 6.0, 6.0], "size": [5.0, 6.0, 7.0], "axis": [1.0, 2.0, 3.0]},
    "flat-foot": {"height": 3.0},
    "move": {"by": [1.0, 2.0, 3.0], "pieces": [1]},
    "turn": {"axis": [1.0, 2.0, 3.0], "degrees": 30.0},
    "lay": {
        "at": [0.0, 0.0, 0.0],
        "facing": [1.0, 2.0, 2.0],
        "on": [4.0, 4.0, 40.0],
        "against": [0.0, 1.0, 1.0],
    },
    "mirror": {"side": "y"},
    "copy": {"by": [5.0, 1.0, 2.0], "count": 2},
    "recast-zone": {"region": _SPOT, "detail": 1.0},
    "recast": {"detail": 1.0},
    "restore-detail": {"others": [soup(7)], "reach": 2.0, "tolerance": 0.3},
    "untangle": {"inverted": "keep"},
    "unite": {"inverted": "drop"},
}
"""Parameters of the operations that need some, or are tried with other than the usual ones."""


pytestmark = pytest.mark.filterwarnings("error::RuntimeWarning")
"""A division by nothing would end as a figure that is none."""


@pytest.fixture(autouse=True)
def _no_fault_is_hidden(caplog: pytest.LogCaptureFixture):
    yield
    assert not [one for one in caplog.records if one.levelno >= logging.ERROR]


def assert_no_worse(before: Mesh, done: Mended, why: str) -> None:
    """No more of any kind of harm; what is called tight is tight for others, too."""
    if done.mesh is before:
        return
    was, is_ = harm_counts(Diagnosis(before)), harm_counts(Diagnosis(done.mesh))
    assert (is_ <= was).all(), f"{why}: {was.tolist()} became {is_.tolist()}"
    if done.after.tight:
        assert_tight_by_referees(done.mesh)


@pytest.mark.parametrize("start", range(FIRST, FIRST + COUNT, 20))
def test_a_soup_survives_reading_examining_and_mending(start: int) -> None:
    for seed in range(start, min(start + 20, FIRST + COUNT)):
        mesh = soup(seed)
        out = io.BytesIO()
        stl.write(mesh, out)
        if mesh.diagonal == 0.0:
            with pytest.raises(RefusedInput):
                stl.read(out.getvalue())
            continue
        assert len(stl.read(out.getvalue()).mesh.faces) == len(mesh.faces)
        done = mend(mesh)
        assert_no_worse(mesh, done, f"soup {seed}")
        found = [sum(report.leaks.values()) for report in (done.before, done.after)]
        assert found[1] <= found[0], f"soup {seed}"
        assert (done.refused is None) == done.after.tight, f"soup {seed}"
        if done.refused is not None:
            told = done.refused.split(". ")
            assert len(told) == len(set(told)), f"soup {seed} is told twice: {done.refused}"


@pytest.mark.parametrize("seed", [4573, 58956, 62758, 63930])
def test_what_comes_out_tight_has_no_face_without_area(seed: int) -> None:
    done = mend(soup(seed))
    assert done.after.tight
    # in exact numbers: heights to longest sides
    corners = done.mesh.vertices[done.mesh.faces]
    sides = np.linalg.norm(corners - np.roll(corners, 1, axis=1), axis=2).max(axis=1)
    area = np.linalg.norm(np.cross(*(corners[:, k] - corners[:, 0] for k in (1, 2))), axis=1)
    assert (area / sides).min() > 1e-9 * done.mesh.diagonal
    assert not len(Diagnosis(done.mesh).degenerate_faces)
    assert_tight_by_referees(done.mesh)


@pytest.mark.parametrize("name", [one.name for one in OPERATIONS])
def test_a_soup_survives_every_remedy(name: str) -> None:
    turn = [one.name for one in OPERATIONS].index(name)
    for seed in range(FIRST, FIRST + COUNT):
        if seed % len(OPERATIONS) == turn:
            _survives(seed, name)


def test_faces_without_area_are_given_thickness() -> None:
    _survives(68046, "give-thickness")


def _survives(seed: int, name: str) -> None:
    mesh = soup(seed)
    try:
        done = perform(mesh, name, GIVEN.get(name, {}), rules=_RULES)
        if name == "mirror":
            # where as many faces run one way as the other, which of them are wrong hangs on
            # their numbers, which mirroring turns round: mirrored twice it is as it was
            done = perform(done.mesh, name, GIVEN[name], rules=_RULES)
    except CaulkError:
        return
    # what is brought in or copied comes with what is wrong with it
    if name not in ("set-unit", "delete-faces", "join-files", "copy"):
        assert_no_worse(mesh, _unmoved_where_moving_harms(mesh, done), f"{name}, soup {seed}")


def _unmoved_where_moving_harms(mesh: Mesh, done: Mended) -> Mended:
    """Pieces that were moved may cross others, what is turned is no longer flat to the last bit,
    and parts of a cut meet where they were cut: what was done as it stands or, where that is
    worse, as it would stand had nothing been moved."""
    if done.unmoved is None:
        return done
    was, is_ = harm_counts(Diagnosis(mesh)), harm_counts(Diagnosis(done.mesh))
    return done if (is_ <= was).all() else replace(done, mesh=welded(done.unmoved))


def test_what_cancels_out_is_refused_as_it_is() -> None:
    done = mend(SMALLEST)
    assert done.refused is not None
    assert_no_worse(SMALLEST, done, "the smallest")


def test_a_step_that_falls_costs_nothing_that_was_mended(
    monkeypatch: pytest.MonkeyPatch, caplog: pytest.LogCaptureFixture
) -> None:
    from caulkjob import mending
    from harbour import breakers as b
    from makers import box, sphere

    broken = b.soup(b.without(sphere(8.0), np.array([3])), box(10, (30, 0, 0)), box(10, (35, 4, 3)))
    run = mending.run_operation

    for problem in (MemoryError(), ZeroDivisionError("a fault of ours")):

        def falling(mesh, name, *given, problem=problem, **more):
            if name == "unite":
                raise problem
            return run(mesh, name, *given, **more)

        monkeypatch.setattr(mending, "run_operation", falling)
        done = mend(broken)
        assert [step.operation for step in done.steps] == ["fill-holes"]
        assert "Unite" in done.refused
        assert done.after.leaks == {"overlapping-shells": 1}
    assert [one.levelno for one in caplog.records] == [logging.ERROR]
    caplog.clear()
    monkeypatch.setattr(mending, "run_operation", run)
    assert examine(mend(broken).mesh).tight
