"""Thin walls built up: thick enough and no thicker, and nothing else moved."""

import re
from dataclasses import replace

import caulkcore.thickness.thicken_walls as thicken_walls_module
import manifold3d
import numpy as np
import pytest
import trimesh
from caulkcore import Mesh, OperationRefused
from caulkcore.mesh.changed_faces import changed_faces
from caulkcore.mesh.concatenate import concatenate
from caulkcore.mesh.split_edges import split_edges_near
from caulkcore.progress import SILENT
from caulkcore.remesh.subdivide import subdivide
from caulkcore.spatial.hausdorff import hausdorff_distance
from caulkcore.thickness.thickness_map import measure_thickness
from caulkjob import examine
from caulkjob.operations import run_operation
from caulkjob.questions import THIN as THIN_KINDS
from caulkjob.remedies.thin_walls import build_up
from caulkjob.rule_sheets import usual_rule_sheet
from makers import assert_tight_by_referees, box, cone, sphere
from scipy.spatial import cKDTree
from test_walls import BASE, FIN, THIN, block, made, rod

VASE = made(rod(12, 6, 32) - rod(12, 5.2, 32).translate((0, 0, 2)))
POCKET = made(block(20, 12, 4) - block(10, 8, 4).translate((2, 0, 0.5)))


def wedge() -> Mesh:
    points = np.array([(x, y, z) for x in (0, 40) for y in (0, 10) for z in (-1, 1)], dtype=float)
    points[:, 2] *= 0.25 + points[:, 0] / 20
    hull = trimesh.convex.convex_hull(points)
    return Mesh(hull.vertices, hull.faces)


def shell() -> Mesh:
    outer = sphere(20, 4)
    n = len(outer.vertices)
    return Mesh(
        np.concatenate([outer.vertices, 0.97 * outer.vertices]),
        np.concatenate([outer.faces, outer.faces[:, ::-1] + n]),
    )


WHERE = {
    **{name: (lambda solid=solid: made(solid), limit) for name, (solid, limit, *_) in THIN.items()},
    "wedge": (wedge, 2.0),
    "pocket": (lambda: POCKET, 1.2),
    "vase": (lambda: VASE, 1.5),
    "shell": (shell, 1.0),
}


@pytest.mark.parametrize("name", WHERE)
def test_a_thin_wall_comes_to_the_limit_and_no_lump(name: str) -> None:
    make, limit = WHERE[name]
    mesh = make()
    thin = measure_thickness(mesh, limit).regions(limit)
    outcome = build_up(mesh, to=limit)
    assert_tight_by_referees(Mesh(outcome.mesh.vertices.astype(np.float32), outcome.mesh.faces))
    walls = measure_thickness(outcome.mesh, limit)
    assert len(walls.regions(limit * 0.999)) == 0
    # where it was thin it is not much thicker than asked
    _, near = cKDTree(walls.samples.points).query(thin.at)
    there = near[walls.depths.is_wall[near]]
    assert (walls.depths.wall[there] <= 1.05 * limit).all()


def test_a_tip_that_stays_a_tip_is_not_called_reached() -> None:
    # moved out, a cone is a cone: near its tip it is as thin as before, only higher up
    mesh = cone()
    outcome = build_up(mesh, to=1.0)
    assert outcome.mesh is mesh
    assert len(outcome.left) == 1
    assert "could be reached; it stays as it was" in outcome.left[0]


@pytest.mark.parametrize(
    ("solid", "limit", "still"),
    [
        # what is far from the fin stays to the bit
        (FIN, 1.5, lambda v: v[:, 2] < 4),
        (BASE + rod(15, 0.5).translate((0, 0, 4)), 1.5, lambda v: v[:, 2] < 4),
    ],
)
def test_nothing_else_moves(solid, limit: float, still) -> None:
    mesh = made(solid)
    built = build_up(mesh, to=limit).mesh
    kept = mesh.vertices[still(mesh.vertices)]
    there = {tuple(v) for v in built.vertices.tolist()}
    assert all(tuple(v) in there for v in kept.tolist())
    # a prism on a block grows by its outline alone
    assert built.volume > mesh.volume


def test_the_fin_keeps_its_edges_and_grows_by_what_was_lacking() -> None:
    mesh = made(FIN)
    built = build_up(mesh, to=1.5).mesh
    assert len(built.faces) == len(mesh.faces)
    more = (built.volume - mesh.volume) / (18 * 9)
    assert 1.5 <= 1 + more <= 1.5 * 1.05
    np.testing.assert_allclose(built.bounds, mesh.bounds)


@pytest.mark.parametrize(
    ("side", "outer", "inner"), [("outward", 1, 0), ("inward", 0, 1), ("both", 0.5, 0.5)]
)
def test_sides_can_be_chosen(side: str, outer: float, inner: float) -> None:
    built = build_up(VASE, to=1.5, side=side).mesh
    radius = np.hypot(built.vertices[:, 0], built.vertices[:, 1])
    at_rim = np.isclose(built.vertices[:, 2], 12)
    assert radius[at_rim].max() == pytest.approx(6 + 0.7 * outer, abs=0.04)
    assert radius[at_rim].min() == pytest.approx(5.2 - 0.7 * inner, abs=0.04)


def test_a_side_that_is_not_there_is_told() -> None:
    outcome = build_up(made(block(30, 20, 1)), to=1.5, side="inward")
    assert outcome.done == ""
    assert "no side that looks inward" in outcome.left[0]


@pytest.mark.parametrize(
    ("gap", "words"),
    [(0.3, "cross the skin|of air"), (0.45, "of air"), (2.0, None)],
)
def test_two_walls_back_to_back_are_not_grown_together(gap: float, words) -> None:
    fins = BASE + block(18, 0.6, 10).translate((0, 0, 9))
    fins += block(18, 0.6, 10).translate((0, 0.6 + gap, 9))
    mesh = made(fins)
    outcome = build_up(mesh, to=1.2)
    if words is None:
        assert not outcome.left
        assert len(measure_thickness(outcome.mesh, 1.2).regions(1.2)) == 0
    else:
        assert outcome.mesh is mesh
        (told,) = outcome.left
        assert re.search(words, told)
        assert "the worst of 2 such places" in told


@pytest.mark.parametrize("size", [None, 1.0], ids=["as it is", "in fine triangles"])
def test_walls_that_cross_already_are_told_once_and_others_built_up(size: float | None) -> None:
    """Two plates through each other, and one that stands apart."""
    flat, upright = made(block(20, 20, 0.6)), made(block(20, 0.6, 20))
    mesh = concatenate([flat, upright, made(block(20, 20, 0.6).translate((40, 0, 0)))])
    if size:
        mesh = subdivide(mesh, size=size, rounded=False).mesh
    outcome = build_up(mesh, to=0.8)
    assert outcome.numbers["walls"] == 1
    (told,) = outcome.left
    assert "it crosses the skin beside it already; mend that first" in told
    assert "the worst of 2 such places" in told
    # what crosses is as it was, face by face; the other one is as thick as asked by its volume
    assert changed_faces(mesh, outcome.mesh)[0].sum() <= len(mesh.faces) / 3
    assert outcome.mesh.volume - mesh.volume == pytest.approx(20 * 20 * 0.2, rel=0.1)


def test_a_crossing_beside_one_wall_does_not_keep_others() -> None:
    """A pin through the block from which a fin rises, and a plate that stands apart."""
    beside = rod(8, 0.8, 12).translate((0, 1.6, 5))
    plate = block(20, 20, 0.6).translate((60, 0, 0))
    mesh = concatenate([made(FIN), made(beside), made(plate)])
    outcome = build_up(mesh, to=1.5)
    assert outcome.numbers["walls"] >= 1
    assert outcome.left
    x = outcome.mesh.vertices[:, 0]
    assert np.ptp(outcome.mesh.vertices[x > 45][:, 2]) >= 1.5
    # the fin, whose foot the pin crosses, is where it was
    fin = outcome.mesh.vertices[(x < 45) & (outcome.mesh.vertices[:, 2] > 10)]
    assert np.isin(fin, mesh.vertices).all()


def test_by_the_sheet_each_wall_comes_to_its_own_limit() -> None:
    sheet = usual_rule_sheet("binder-steel")  # walls 1.2 held, 1.6 free
    both = FIN + block(10, 16, 1).translate((14.5, 0, 0)) + BASE.translate((29, 0, 0))
    mesh = made(both)
    found = {f.kind: f for f in examine(mesh, rules=sheet).findings}
    assert {"thin-free-walls", "thin-walls"} <= set(found)
    one = run_operation(
        mesh, "build-up", {"kind": "thin-free-walls", "places": [1]}, SILENT, rules=sheet
    )
    left = {f.kind for f in examine(one.mesh, rules=sheet).findings}
    assert "thin-walls" in left
    assert "thin-free-walls" not in left
    every = run_operation(mesh, "build-up", {}, SILENT, rules=sheet)
    assert not [f for f in examine(every.mesh, rules=sheet).findings if "thin" in f.kind]


@pytest.mark.parametrize(
    ("given", "words"),
    [
        ({}, "has no rules"),
        ({"to": 0.001}, "from 0.01 to 100"),
        ({"to": 1.5, "places": [2]}, "no place 2"),
        ({"to": 1.5, "side": "under"}, "Side cannot be"),
        ({"to": 1.5, "kind": "cracks"}, "Kind cannot be"),
    ],
)
def test_what_makes_no_sense_is_refused(given, words: str) -> None:
    with pytest.raises(OperationRefused, match=words):
        run_operation(made(FIN), "build-up", given, SILENT)


def test_what_is_thick_enough_stays_the_very_same() -> None:
    mesh = box(10)
    outcome = build_up(mesh, to=1.0)
    assert outcome.mesh is mesh
    assert outcome.left == ("No wall is thinner than that.",)


def test_divided_faces_lie_where_the_old_ones_did() -> None:
    mesh = box(10)
    points = np.array([[5.0, 0.0, 0.0]])
    v, f, origin = split_edges_near(
        mesh.vertices, mesh.faces, np.ones(12, dtype=bool), points, 0.5, 1.0
    )
    assert np.array_equal(v[:8], mesh.vertices)
    fine = Mesh(v, f)
    assert_tight_by_referees(fine, 1000.0, 1e-12)
    tri = v[f]
    lengths = np.linalg.norm(tri - np.roll(tri, 1, axis=1), axis=2).max(axis=1)
    near = np.linalg.norm(tri.mean(axis=1) - points[0], axis=1) < 0.8
    assert near.sum() > 10
    assert (lengths[near] <= 0.5).all()
    assert len(np.unique(origin)) == 12


OUTLINE = [(0, 0), (3, 0), (3, 2.5), (7, 2.5), (7, 0), (10, 0), (10, 3), (0, 3)]


def bridge(strip: float | None = None) -> Mesh:
    """A bridge half a millimetre thick between two legs, its flat top cut into strips."""
    line = [np.array(p, dtype=float) for p in OUTLINE]
    if strip:
        steps = np.linspace(10, 0, round(10 / strip) + 1)
        line = [*line[:6], *(np.array([x, 3.0]) for x in steps)]
    outline = np.array(line)
    cap = np.asarray(manifold3d.triangulate([outline]))
    k = len(outline)
    front = np.column_stack([outline[:, 0], np.zeros(k), outline[:, 1]])
    i = np.arange(k)
    j = np.roll(i, -1)
    sides = [np.column_stack([i, i + k, j]), np.column_stack([j, i + k, j + k])]
    mesh = Mesh(
        np.vstack([front, front + np.array([0, 2, 0])]), np.vstack([cap, cap[:, ::-1] + k, *sides])
    )
    return mesh if mesh.volume > 0 else Mesh(mesh.vertices, mesh.faces[:, ::-1])


def test_how_a_flat_top_is_divided_does_not_matter() -> None:
    made_of = [bridge(strip) for strip in (None, 0.1, 0.008)]
    built = [build_up(mesh, to=1.0) for mesh in made_of]
    more = [one.mesh.volume - made_of[0].volume for one in built]
    # half a millimetre lacks over 4 x 2 mm, and less and less of it beside
    assert min(more) > 4.0
    assert max(more) / min(more) < 1.02
    for one in built:
        assert one.left == ()
        assert len(one.mesh.faces) < 400  # of 28, and once 47,962
        assert_tight_by_referees(one.mesh)
        walls = measure_thickness(one.mesh, 1.0)
        assert len(walls.regions(1.0)) == 0
        apart = hausdorff_distance(built[0].mesh, one.mesh).both.high
        assert apart < 1e-9
        # nowhere thicker than needed: the top rises by half of what lacks, the legs not at all
        assert one.mesh.vertices[:, 2].max() < 3 + 0.25 * 1.05
        top = one.mesh.vertices[one.mesh.vertices[:, 2] > 3 + 1e-6]
        # beyond the thin part by the fall-off at most
        assert top[:, 0].min() > 3 - 0.5 - 0.25 / 0.3
        assert top[:, 0].max() < 7 + 0.5 + 0.25 / 0.3


@pytest.mark.parametrize("name", ["plate", "tube", "pin", "wedge", "pocket", "vase"])
def test_the_same_shape_in_fine_triangles_gives_the_same_result(name: str) -> None:
    make, limit = WHERE[name]
    mesh = make()
    finer = subdivide(mesh, size=limit, rounded=False).mesh
    assert len(finer.faces) > 4 * len(mesh.faces)
    one, other = build_up(mesh, to=limit), build_up(finer, to=limit)
    assert other.left == one.left == ()
    grown = one.mesh.volume - mesh.volume
    assert other.mesh.volume - mesh.volume == pytest.approx(grown, rel=0.02)
    assert hausdorff_distance(one.mesh, other.mesh).both.high < 0.15 * limit


def test_what_cannot_reach_the_limit_stays_as_it_was(monkeypatch: pytest.MonkeyPatch) -> None:
    """A skin that comes out thin still is not kept, though it moved."""
    real = thicken_walls_module.offset_walls

    def too_little(zone, side, **given):
        return replace(real(zone, side, **given), mesh=zone.mesh)

    monkeypatch.setattr(thicken_walls_module, "offset_walls", too_little)
    mesh = made(FIN)
    outcome = build_up(mesh, to=1.5)
    assert outcome.mesh is mesh
    assert "1.00 mm is what could be reached; it stays as it was" in outcome.left[0]


@pytest.mark.parametrize(
    ("mesh", "limit", "shift"),
    [(bridge(), 1.0, 0.25), (made(FIN), 1.5, 0.25), (made(block(20, 20, 0.5)), 0.8, 0.15)],
    ids=["bridge", "fin", "plate"],
)
def test_what_it_will_add_is_told_beforehand(mesh: Mesh, limit: float, shift: float) -> None:
    sheet = replace(usual_rule_sheet("sintered-nylon"), wall_supported=limit, wall_free=limit)
    found = [f for f in examine(mesh, rules=sheet).findings if f.kind in THIN_KINDS]
    places = [place for finding in found for place in finding.places]
    built = build_up(mesh, to=limit).mesh
    assert sum(place.adds for place in places) == pytest.approx(built.volume - mesh.volume, rel=0.2)
    assert max(place.shift for place in places) == pytest.approx(shift, rel=0.05)
    moved = hausdorff_distance(mesh, built).both
    assert moved.low <= 1.15 * shift
