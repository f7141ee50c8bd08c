"""What mending may decide: pieces that stay apart, and what is cleared by policy."""

import numpy as np
import pytest
from caulkcore import Mesh
from caulkcore.diagnose.diagnosis import Diagnosis
from caulkcore.progress import SILENT
from caulkjob import mend
from caulkjob.limits import Limits
from caulkjob.operations import run_operation
from caulkjob.shop_policy import KEPT, SETTINGS, ShopPolicy
from harbour import breakers as b
from makers import assert_tight_by_referees, box, hollow_box, sphere


def row(broken: bool = False) -> Mesh:
    """Three cubes in a row, each overlapping the next by two."""
    one, two, three = (
        Mesh(box(10).vertices + np.array([8.0 * i, 0, 0]), box(10).faces) for i in range(3)
    )
    return b.soup(one, two, b.without(three, np.array([0])) if broken else three)


def number_at(mesh: Mesh, x: float) -> int:
    """Number of the piece whose middle lies nearest to a place along the row."""
    skin = Diagnosis(mesh)
    shell, count = skin.shells
    middle = mesh.vertices[mesh.faces[skin.kept]].mean(axis=1)[:, 0]
    middles = [middle[shell == s].mean() for s in range(count)]
    return int(np.argmin(np.abs(np.array(middles) - x))) + 1


@pytest.mark.parametrize("broken", [False, True])
def test_a_piece_that_stays_apart_is_not_united(broken: bool) -> None:
    mesh = row(broken)
    first = number_at(mesh, 0)
    done = mend(mesh, apart=[first])
    assert "stay apart as chosen" in (done.refused or "")
    assert done.after.as_json()["shells"] == 2
    assert done.after.leaks == {"overlapping-shells": 1}
    # ten by ten by ten that stays, and two others in one
    assert done.mesh.volume == pytest.approx(1000 + 1800, rel=1e-6)
    kept = {tuple(v) for v in done.mesh.vertices}
    assert all(tuple(v) in kept for v in box(10).vertices)


def test_nothing_is_united_when_the_middle_one_stays_apart() -> None:
    mesh = row()
    outcome = run_operation(mesh, "unite", {"apart": [number_at(mesh, 8)]}, SILENT)
    assert outcome.mesh is mesh
    (told,) = outcome.left
    assert "2 such places" in told


def test_without_a_choice_all_become_one() -> None:
    done = mend(row(True))
    assert_tight_by_referees(done.mesh, 2600, 1e-6)


def stuffed() -> Mesh:
    """A hollow box with a ball in its wall, and a crumb beside it."""
    hollow = hollow_box()
    crumb = Mesh(sphere(0.1, 1).vertices + hollow.bounds[1] + 3, sphere(0.1, 1).faces)
    return b.soup(hollow, crumb)


@pytest.mark.parametrize(
    ("policy", "gone"),
    [
        ({}, set()),
        ({"voids": "fill"}, {"sealed-voids"}),
        ({"debris": "drop"}, {"debris"}),
        ({"voids": "fill", "debris": "drop"}, {"sealed-voids", "debris"}),
    ],
)
def test_what_is_cleared_by_policy(policy, gone: set[str]) -> None:
    mesh = stuffed()
    done = mend(mesh, **policy)
    found = {f.kind for f in done.after.findings}
    assert {"sealed-voids", "debris"} - found == gone
    assert done.refused is None
    assert (done.mesh is mesh) is (not gone)


def test_a_person_is_asked_for_all_that_is_to_be_asked() -> None:
    done = mend(stuffed(), voids="ask", debris="ask")
    assert done.refused is not None
    assert done.refused.startswith("A person must decide: ")
    assert "hollow" in done.refused
    assert "too small to be meant" in done.refused


def test_the_shops_limits_reach_the_remedies() -> None:
    mesh = stuffed()
    none = Limits(debris_size=0.01, debris_volume=0.0)
    assert run_operation(mesh, "drop-debris", {}, SILENT, limits=none).mesh is mesh
    assert run_operation(mesh, "drop-debris", {}, SILENT).mesh is not mesh


def test_what_is_settled_as_it_comes_is_what_the_core_takes() -> None:
    assert ShopPolicy().limits == Limits()
    assert ShopPolicy.from_json({}) == ShopPolicy()
    assert ShopPolicy.from_json(ShopPolicy(voids="keep").as_json()).accepted == (KEPT["voids"],)
    assert {one.name: one.default for one in SETTINGS} == ShopPolicy().as_json()
