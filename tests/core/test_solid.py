"""Crossings and overlaps, against libigl's exact detector; unions against analytic volumes."""

from fractions import Fraction

import numpy as np
import pytest
from caulkcore import Mesh
from caulkcore.predicates.orientation import orient2d, orient3d
from caulkcore.progress import SILENT
from caulkcore.spatial.box_tree import Tree
from caulkcore.spatial.intersecting_pairs import intersecting_pairs_of_tree
from caulkjob import examine, mend
from caulkjob.operations import run_operation
from harbour import breakers as b
from harbour import shapes
from harbour.orders import _seal
from hypothesis import given, settings
from hypothesis import strategies as st
from igl.copyleft.cgal import remesh_self_intersections
from makers import SOUND, assert_tight_by_referees, box, random_mesh, sound, sphere

_ROUND = st.integers(-3, 3).map(float)
# the signs are exact for coordinates that are 0 or from 1e-60 to 1e60
_SHARE = st.floats(0, 1, allow_subnormal=False).filter(lambda x: x == 0 or x > 1e-6)
_ANY = st.floats(-1e6, 1e6, allow_subnormal=False).filter(lambda x: x == 0 or abs(x) > 1e-6)


def sign(x: Fraction) -> int:
    return (x > 0) - (x < 0)


def exact_3d(p) -> int:
    a, c, d, e = ([Fraction(x) for x in row] for row in p)
    u, v, w = ([x - y for x, y in zip(r, e, strict=True)] for r in (a, c, d))
    return sign(
        u[0] * (v[1] * w[2] - v[2] * w[1])
        + u[1] * (v[2] * w[0] - v[0] * w[2])
        + u[2] * (v[0] * w[1] - v[1] * w[0])
    )


@settings(max_examples=400, deadline=None)
@given(st.lists(st.one_of(_ROUND, _ANY), min_size=12, max_size=12), _SHARE)
def test_signs_are_those_of_exact_arithmetic(numbers, share: float) -> None:
    p = np.array(numbers).reshape(4, 3)
    for points in (p, np.vstack([p[:3], p[0] + share * (p[1] - p[0])])):
        assert orient3d(points, 0, 1, 2, 3) == exact_3d(points)
        flat = [[Fraction(x) for x in row] for row in points]
        turn = sign(
            (flat[0][0] - flat[3][0]) * (flat[1][1] - flat[3][1])
            - (flat[0][1] - flat[3][1]) * (flat[1][0] - flat[3][0])
        )
        assert orient2d(points, 0, 1, 3, 0, 1) == turn


@pytest.mark.parametrize("kind", range(6))
def test_pairs_are_exactly_those_of_the_referee(kind: int) -> None:
    met = 0
    for seed in range(40):
        mesh = random_mesh(kind, np.random.default_rng([kind, seed]))
        none = np.zeros(len(mesh.faces), dtype=bool)
        ours = intersecting_pairs_of_tree(Tree.of(mesh.vertices, mesh.faces), none)
        faces = mesh.faces.astype(np.int64)
        theirs = remesh_self_intersections(mesh.vertices, faces, detect_only=True)[2]
        theirs = np.sort(np.asarray(theirs).reshape(-1, 2), axis=1)
        theirs = theirs[np.lexsort((theirs[:, 1], theirs[:, 0]))]
        assert np.array_equal(ours, theirs)
        met += len(ours)
    assert met > 100


@pytest.mark.parametrize("name", SOUND)
def test_nothing_crosses_in_a_sound_solid(name: str) -> None:
    mesh = sound(name)
    none = np.zeros(len(mesh.faces), dtype=bool)
    assert len(intersecting_pairs_of_tree(Tree.of(mesh.vertices, mesh.faces), none)) == 0


@pytest.mark.parametrize("gap", [0.04, 1e-4])
def test_shells_a_hair_apart_do_not_overlap(gap: float) -> None:
    report = examine(b.soup(box(), box(10, (10 + gap, 0, 0))))
    assert report.tight
    assert {f.kind for f in report.findings} == {"near-gaps", "loose-parts"}


def test_the_curve_of_a_crossing_has_its_length_and_place() -> None:
    report = examine(b.soup(box(), box(10, (4, 3, 2))))
    (finding,) = report.findings
    assert (finding.kind, finding.count, finding.severity) == ("overlapping-shells", 1, "leak")
    (place,) = finding.places
    # the rim of the common 6 x 7 x 8 block, half of its edges' length, all round
    total = np.linalg.norm(place.curves[:, 1] - place.curves[:, 0], axis=1).sum()
    assert total == pytest.approx(2 * (6 + 7 + 8))
    assert np.all(place.low >= -5)


def test_a_skin_that_passes_through_itself_leaks() -> None:
    mesh = sphere(20, 3)
    points = mesh.vertices.copy()
    points[points[:, 2] > 15, 2] -= 40
    (finding,) = examine(Mesh(points, mesh.faces)).findings
    assert (finding.kind, finding.severity) == ("self-intersections", "leak")
    assert finding.count == sum(p.count for p in finding.places)


def common(shift) -> float:
    return float(np.prod(np.clip(10 - np.abs(shift), 0, None)))


@pytest.mark.parametrize(
    "shift", [(4, 3, 2), (5, 0, 0), (9.999, 9, 9), (0, 0, 5), (10, 3, 3), (-2.5, 7, 1e-3)]
)
def test_two_boxes_unite_to_the_volume_of_inclusion_and_exclusion(shift) -> None:
    outcome = mend(b.soup(box(), box(10, shift)))
    assert outcome.refused is None
    assert_tight_by_referees(outcome.mesh, 2000 - common(shift), 1e-6)
    assert examine(outcome.mesh).findings == ()


def test_a_sculpture_in_seven_pieces_becomes_one() -> None:
    mesh = _seal()
    outcome = mend(mesh)
    assert outcome.refused is None
    assert outcome.after.shells == 1
    assert [s.operation for s in outcome.steps] == ["turn-outward", "unite"]
    whole = shapes.concatenate(shapes.harbour_seal())
    assert_tight_by_referees(outcome.mesh, whole.volume(), 1e-5)
    assert outcome.account.unchanged_faces > 0.5 * len(mesh.faces)
    assert outcome.account.max_deviation_mm < 20


def test_a_void_stays_when_something_is_pushed_into_its_solid() -> None:
    mesh = b.soup(sound("hollow box"), box(2, (5, 0, 0)))
    outcome = mend(mesh)
    assert_tight_by_referees(outcome.mesh, 1000 - 64 + 4, 1e-6)
    assert outcome.after.shells == 2


def test_pieces_are_kept_apart_when_asked() -> None:
    mesh = b.soup(box(), box(10, (4, 3, 2)))
    outcome = mend(mesh, unite=False)
    assert outcome.mesh is mesh
    assert "overlap" in outcome.refused


def test_much_that_is_inside_out_is_left_for_a_person() -> None:
    ball = sphere(20, 3)
    points = ball.vertices.copy()
    points[points[:, 2] > 15, 2] -= 40
    mesh = b.soup(Mesh(points, ball.faces), box(10, (18.3, 0.1, 0.2)))
    outcome = mend(mesh)
    assert [s.operation for s in outcome.steps] == ["part-pinched"]
    assert "inside out; whether that is material or air has to be chosen" in outcome.refused
    kept = run_operation(mesh, "untangle", {"inverted": "keep"}, SILENT)
    dropped = run_operation(mesh, "untangle", {"inverted": "drop"}, SILENT)
    assert kept.mesh.volume > dropped.mesh.volume > 0
    for one in (kept, dropped):
        # lobes that hang together along the curve are parted by the plan's next steps
        assert "self-intersections" not in examine(one.mesh).leaks
        assert mend(one.mesh).refused is None
