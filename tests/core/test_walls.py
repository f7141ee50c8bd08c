"""Thickness against analytic solids; no thin place where nothing is thin; what each is like."""

import json
from dataclasses import replace
from itertools import pairwise

import manifold3d
import numpy as np
import pytest
import trimesh
from caulkcore import Mesh, OperationRefused, RefusedInput
from caulkcore.mesh.topology import Topology
from caulkcore.spatial.box_tree import Tree
from caulkcore.thickness._ball_kernels import opposite_leaf
from caulkcore.thickness.ball_and_ray import OPPOSITE, measure_ball_and_ray
from caulkcore.thickness.thickness_map import ThicknessMap, measure_thickness
from caulkjob import cli, examine, write
from caulkjob.remedies.rework import reduce
from caulkjob.rule_sheets import RuleSheet, usual_rule_sheet, usual_rule_sheets
from harbour import breakers as b
from harbour import shapes
from makers import box, cone, sphere, torus

Solid = manifold3d.Manifold


def made(solid: manifold3d.Manifold) -> Mesh:
    raw = solid.to_mesh64()
    return Mesh(np.asarray(raw.vert_properties)[:, :3], np.asarray(raw.tri_verts))


def block(x: float, y: float, z: float) -> manifold3d.Manifold:
    return Solid.cube((x, y, z), True)


def rod(length: float, radius: float, sides: int = 48) -> manifold3d.Manifold:
    return Solid.cylinder(length, radius, radius, sides)


BASE = block(20, 20, 10)
FIN = BASE + block(18, 1, 10).translate((0, 0, 9))
PIN = BASE + rod(15, 0.5).translate((0, 0, 4))
WINDOW = block(20, 20, 6) - block(16, 16, 2.5).translate((0, 0, 1.75)) - block(
    16, 16, 2.5
).translate((0, 0, -1.75))  # fmt: skip
PIPE = rod(12, 10, 96) - rod(20, 9, 96).translate((0, 0, -4))
SLIT = block(20, 20, 10) - block(30, 0.4, 5).translate((0, 0, 5))

# solid, limit, thickness, area of thin skin, free-standing, wire
THIN = {
    "plate": (block(30, 20, 1), 1.5, 1.0, 1200, True, False),
    "tube": (PIPE, 1.5, 0.9995, 1430, True, False),
    "ball shell": (Solid.sphere(20, 96) - Solid.sphere(19, 96), 1.5, 0.9985, 9550, True, False),
    "fin": (FIN, 1.5, 1.0, 324, True, False),
    "window": (WINDOW, 1.5, 1.0, 512, False, False),
    "pin": (PIN, 1.5, 0.9979, 44, True, True),
    "bar": (block(1, 1.5, 20), 1.8, 1.0, 100, True, True),
    "bridge": (BASE + BASE.translate((30, 0, 0)) + block(12, 1, 1).translate((15, 0, 0)),
               1.5, 1.0, 40, False, True),
}  # fmt: skip


@pytest.mark.parametrize("name", THIN)
def test_a_thin_place_has_its_thickness_area_and_nature(name: str) -> None:
    solid, limit, thickness, area, free, wire = THIN[name]
    regions = measure_thickness(made(solid), limit).regions(limit)
    assert len(regions) == 1
    assert regions.thickness[0] == pytest.approx(thickness, rel=0.01)
    assert regions.area[0] == pytest.approx(area, rel=0.05)
    assert (bool(regions.free_standing[0]), bool(regions.wire[0])) == (free, wire)


SOUND = {
    "cube": lambda: box(10),
    "ball": lambda: sphere(20, 4),
    "ring": torus,
    "chamfered": lambda: made(
        Solid.hull(block(10, 10, 8) + block(8, 10, 10) + block(10, 8, 10))
    ),
    "teeth": lambda: made(
        rod(8, 12, 64)
        + sum((block(4, 30, 8).rotate((0, 0, a)).translate((0, 0, 4)) for a in range(0, 180, 30)),
              start=Solid())
    ),
    "creased": lambda: creased(),
    "slit": lambda: made(SLIT),
}  # fmt: skip


def creased() -> Mesh:
    """A thick ball with sharp furrows and ridges all over."""
    ball = sphere(20, 5)
    way = ball.vertices / 20
    depth = 0.6 * np.abs(np.sin(9 * np.arctan2(way[:, 1], way[:, 0]))) * (1 - way[:, 2] ** 2)
    return Mesh(ball.vertices * (1 + depth / 20)[:, None], ball.faces)


@pytest.mark.parametrize("name", SOUND)
def test_nothing_is_thin_where_nothing_is(name: str) -> None:
    walls = measure_thickness(SOUND[name](), 2.0)
    assert len(walls.regions(2.0)) == 0


def test_the_tip_of_a_cone_is_thin() -> None:
    regions = measure_thickness(cone(), 1.0).regions(1.0)
    assert len(regions) == 1
    assert regions.at[0][2] == pytest.approx(cone().bounds[1][2], abs=1.5)


def test_a_wedge_is_as_thick_as_it_is_wide() -> None:
    # 40 long, from 0.5 to 4.5 thick
    points = np.array([(x, y, z) for x in (0, 40) for y in (0, 10) for z in (-1, 1)], dtype=float)
    points[:, 2] *= 0.25 + points[:, 0] / 20
    wedge = trimesh.convex.convex_hull(points)
    walls = measure_thickness(Mesh(wedge.vertices, wedge.faces), 3.0)
    flank = (np.abs(walls.samples.normals[:, 2]) > 0.9) & walls.depths.across
    x = walls.samples.points[flank, 0]
    # the ball touches both flanks alike: its middle is on the middle plane
    slope = np.arctan(1 / 20)
    true = 2 * (0.25 + x / 20) * np.cos(slope) / (0.5 + 0.5 * np.cos(2 * slope)) * np.cos(slope)
    inner = (x > 3) & (x < 36)
    assert inner.sum() > 300
    assert np.allclose(walls.depths.ball[flank][inner], true[inner], rtol=0.01)


def turned(mesh: Mesh) -> Mesh:
    way = trimesh.transformations.random_rotation_matrix(np.array([0.1, 0.6, 0.9]))[:3, :3]
    return Mesh(mesh.vertices @ way.T, mesh.faces)


def refined(mesh: Mesh) -> Mesh:
    return Mesh(*trimesh.remesh.subdivide(mesh.vertices, mesh.faces))


@pytest.mark.parametrize("change", [turned, refined])
@pytest.mark.parametrize("name", ["fin", "window", "pin"])
def test_the_answer_stays_when_the_mesh_is_turned_or_refined(change, name: str) -> None:
    mesh, limit = made(THIN[name][0]), THIN[name][1]
    before, after = (measure_thickness(m, limit).regions(limit) for m in (mesh, change(mesh)))
    assert len(before) == len(after) == 1
    assert after.thickness[0] == pytest.approx(before.thickness[0], rel=0.02)
    assert after.area[0] == pytest.approx(before.area[0], rel=0.05)
    assert after.free_standing[0] == before.free_standing[0]
    assert after.wire[0] == before.wire[0]


def slow_ball(walls: ThicknessMap, sample: int) -> float:
    """The ball by bisection, against trimesh's nearest points."""
    solid = trimesh.Trimesh(walls.mesh.vertices, walls.mesh.faces, process=False)
    p, n = walls.samples.points[sample], walls.samples.normals[sample]
    low, high = 0.0, walls.most / 2
    for _ in range(40):
        r = (low + high) / 2
        _, distance, _ = trimesh.proximity.closest_point_naive(solid, [p - r * n])
        low, high = (r, high) if distance[0] >= r * (1 - 1e-5) else (low, r)
    return 2 * low


def test_balls_agree_with_a_slow_search_for_them() -> None:
    walls = measure_thickness(made(FIN), 1.5)
    across = np.flatnonzero(walls.depths.across)
    for sample in across[:: len(across) // 12].tolist():
        assert walls.depths.ball[sample] == pytest.approx(slow_ball(walls, sample), rel=2e-3)


def shuffled(mesh: Mesh) -> Mesh:
    return Mesh(mesh.vertices, np.random.default_rng(3).permutation(mesh.faces))


ALL = {
    **{name: lambda name=name: made(THIN[name][0]) for name in THIN},
    **SOUND,
    "creased shell": lambda: b.soup(
        creased(), Mesh(creased().vertices * 0.96, creased().faces[:, ::-1])
    ),
}


def carved(seed: int) -> Mesh:
    """A few blocks, cones and balls anyhow added to one another and taken away."""
    rng = np.random.default_rng(seed)

    def part() -> manifold3d.Manifold:
        some = (
            manifold3d.Manifold.cube(rng.uniform(0.3, 12, 3), True),
            manifold3d.Manifold.sphere(rng.uniform(2, 6), int(rng.integers(4, 40))),
            manifold3d.Manifold.cylinder(
                9, *rng.uniform(0.2, 5, 2), int(rng.integers(3, 30)), True
            ),
            manifold3d.Manifold.tetrahedron().scale(rng.uniform(0.5, 8, 3)),
        )[rng.integers(4)]
        return some.rotate(rng.uniform(0, 360, 3)).translate(rng.uniform(-4, 4, 3))

    solid = part()
    for _ in range(5):
        solid = solid + part() if rng.random() < 0.6 else solid - part()
    return made(solid)


def drawn(outline: list[tuple[float, float]]) -> Mesh:
    """A bar with an outline, in small triangles."""
    bar = manifold3d.Manifold.extrude(manifold3d.CrossSection([outline]), 6.0)
    return made(bar.refine_to_length(0.4))


# a groove so steep that neither of its sides faces the back, and a wedge that hardly counts
ALL["groove"] = lambda: drawn([(-6, 0), (6, 0), (6, 4), (0.8, 4), (0, 1), (-0.8, 4), (-6, 4)])
ALL["wedge"] = lambda: drawn([(0, 0), (8, -8 * np.tan(0.48)), (8, 8 * np.tan(0.48))])
ALL |= {f"carved {i}": lambda i=i: carved(i) for i in range(12)}


@pytest.mark.parametrize("name", ALL)
def test_what_is_left_out_of_the_search_changes_nothing(name: str) -> None:
    mesh = shuffled(ALL[name]())
    walls = measure_thickness(mesh, 1.5)
    assert Topology(mesh).is_coherent
    assert walls.depths.is_wall.any() or name in SOUND
    samples, quick = walls.samples, walls.depths
    slow = measure_ball_and_ray(
        Tree.of(mesh.vertices, mesh.faces), samples.points, samples.normals, samples.face,
        walls.most,
    )  # fmt: skip
    wall = slow.is_wall
    assert np.array_equal(quick.is_wall, wall)
    assert np.allclose(quick.wall[wall], slow.wall[wall], rtol=1e-4)
    assert (quick.ray >= slow.ray).all()
    assert (quick.ray == walls.most)[quick.ray > slow.ray].all()


@pytest.mark.parametrize("name", ["groove", "wedge", "creased shell", "carved 0", "carved 1"])
def test_what_a_ball_touches_is_seen_as_opposite_with_all_else_gone(name: str) -> None:
    mesh = ALL[name]()
    walls = measure_thickness(mesh, 1.5)
    tree, depths = walls.tree, walls.depths
    leaves = len(tree.boxes) // 2
    none = np.array([np.inf] * 3 + [-np.inf] * 3)
    across = np.flatnonzero(depths.across)
    for sample in across[:: len(across) // 100 + 1]:
        leaf = int(np.flatnonzero(tree.order == depths.contact[sample])[0]) // 4
        alone = tree.boxes.copy()
        alone[leaves:][np.arange(leaves) != leaf] = none
        p, n = (tuple(x[sample].tolist()) for x in (walls.samples.points, walls.samples.normals))
        given = p, p, n, n, walls.most, np.cos(OPPOSITE), np.int64(-1), tree.corners, alone
        assert opposite_leaf(*given, tree.normal_bounds, np.empty(64, dtype=np.int64)) == leaf


def test_a_turned_patch_is_no_reason_to_miss_a_wall() -> None:
    plate = refined(made(block(30, 20, 1)))
    flipped = b.turned(plate, np.flatnonzero(b.middles(plate)[:, 2] > 0.4)[::3])
    walls = measure_thickness(flipped, 1.5)
    below = walls.samples.points[:, 2] < -0.4
    inner = below & (np.abs(walls.samples.points[:, :2]) < [13, 8]).all(axis=1)
    assert walls.depths.wall[inner] == pytest.approx(1.0, rel=0.01)


def test_an_open_mesh_is_measured_where_it_can_be_and_says_so() -> None:
    mesh = made(FIN)
    walls = measure_thickness(Mesh(mesh.vertices, mesh.faces[1:]), 1.5)
    assert walls.open_faces == len(mesh.faces) - 1
    side = (np.abs(walls.samples.normals[:, 1]) > 0.9) & (walls.samples.points[:, 2] > 6)
    assert np.allclose(walls.depths.wall[side], 1.0, rtol=1e-3)
    cube = box()
    assert len(measure_thickness(Mesh(cube.vertices, cube.faces[1:]), 2.0).regions(2.0)) == 0


@pytest.mark.parametrize("limit", [0.0, -1.0, 1e6, float("nan")])
def test_absurd_limits_are_refused_with_the_range(limit: float) -> None:
    with pytest.raises(OperationRefused, match=r"from 0\.01 to 100 mm"):
        measure_thickness(box(), limit)


def test_findings_hang_on_the_material() -> None:
    mesh = made(PIN)
    kinds = {
        key: {f.kind for f in examine(mesh, rules=usual_rule_sheets()[key]).findings}
        for key in ("standard-resin", "binder-steel")
    }
    assert kinds["standard-resin"] == set()
    assert kinds["binder-steel"] == {"thin-wires"}
    (finding,) = examine(mesh, rules=usual_rule_sheet("binder-steel")).findings
    (place,) = finding.places
    assert finding.severity == "call"
    assert place.measure == "1.00 of 2.00 mm"
    assert mesh.vertices[mesh.faces[place.faces]].reshape(-1, 3)[:, 2].min() >= 4
    assert "walls" not in examine(mesh).questions
    crossed = b.soup(mesh, box(4, (10, 0, 0)))
    assert "walls" in examine(mesh, rules=usual_rule_sheet("binder-steel")).questions
    assert "walls" not in examine(crossed, rules=usual_rule_sheet("binder-steel")).questions


def test_the_command_line_tells_thin_places(tmp_path, capsys) -> None:
    path = tmp_path / "fin.stl"
    write(made(FIN), path)
    assert cli.main(["walls", str(path), "--min", "1.5", "--json"]) == 1
    told = json.loads(capsys.readouterr().out)
    assert told["thinnest_mm"] == pytest.approx(1.0, rel=1e-3)
    assert told["thin_area_mm2"] == pytest.approx(324, rel=0.02)
    assert set(told["percentiles"]) == {"1", "5", "50"}
    (region,) = told["regions"]
    assert region["free_standing"]
    assert not region["wire"]
    assert cli.main(["walls", str(path), "--min", "0.9"]) == 0
    assert "nothing thin" in capsys.readouterr().out
    assert cli.main(["walls", str(path), "--min", "0"]) == 2
    assert "from 0.01 to 100 mm" in capsys.readouterr().err
    assert cli.main(["check", str(path), "--material", "binder-steel"]) == 0
    assert "1 thin free wall thinner than binder steel" in capsys.readouterr().out
    assert cli.main(["check", str(path), "--material", "gold"]) == 2
    assert "There is no material “gold”" in capsys.readouterr().err


@pytest.mark.parametrize(
    ("change", "words"),
    [
        ({"wall_free": -1}, r"\(wall_free\) must be from 0 to 100 mm"),
        ({"wall_free": "thick"}, r"\(wall_free\) must be"),
        ({"largest": [1, 2]}, "three sides"),
        ({"density_g_cm3": 0}, r"\(density_g_cm3\)"),
        ({"price_per_part": -1}, r"\(price_per_part\)"),
        ({"colour": "red"}, "has no “colour”"),
    ],
)
def test_a_rule_sheet_is_checked(change, words: str) -> None:
    good = usual_rule_sheet("tough-resin").as_json()
    assert RuleSheet.from_json(good) == usual_rule_sheet("tough-resin")
    with pytest.raises(RefusedInput, match=words):
        RuleSheet.from_json({**good, **change})


@pytest.mark.parametrize(
    ("make", "words"),
    [
        (lambda: b.soup(box(), box(10, (4, 3, 2))), "waits for one solid"),
        (shapes.pennant, "waits for a solid"),
        (lambda: sphere(20, 7), "not measured yet"),
    ],
)
def test_where_walls_mean_nothing_the_report_says_why(make, words: str) -> None:
    report = examine(make(), rules=usual_rule_sheet("sintered-nylon"), questions=("solid", "walls"))
    assert "walls" not in report.questions
    assert [(one.question, one.words) for one in report.unasked] == [("walls", words)]
    assert [one.words for one in examine(box()).unasked] == ["no rules for the material"]


VERDICTS = {
    # solid, material, what fails with what was found, scale at which it passes
    "thick": (block(20, 20, 10), "sintered-nylon", {}, 1.0),
    "fin": (FIN, "sintered-nylon", {}, 1.0),
    "thin fin": (FIN, "colour-gypsum", {"thin-free-walls": (1.0, 3.0)}, 3.0),
    "small": (block(4, 4, 4), "sintered-nylon", {"too-small": (4.0, 5.0)}, 1.25),
    "large": (block(70, 9, 9), "sintered-nylon", {"too-large": (70.0, 56.0)}, 0.8),
    "large and thin": (FIN.scale((3, 1, 1)), "sintered-nylon", {"too-large": (60.0, 56.0)}, 0.933),
    "too large to be thick": (
        block(60, 0.5, 20), "sintered-nylon",
        {"too-large": (60.0, 56.0), "thin-free-walls": (0.5, 0.9)}, None,
    ),
    "hollow": (Solid.sphere(20, 48) - Solid.sphere(10, 48), "tough-resin",
               {"sealed-voids": (0.0, 0.0)}, 1.0),
}  # fmt: skip
SMALL_SHOP = {
    key: replace(sheet, largest=tuple(side / 10 for side in sheet.largest))
    if key == "sintered-nylon" else sheet
    for key, sheet in usual_rule_sheets().items()
}  # fmt: skip


@pytest.mark.parametrize("name", VERDICTS)
def test_each_material_says_what_is_wrong_and_at_what_size_it_would_pass(name: str) -> None:
    solid, key, faults, scale = VERDICTS[name]
    mesh = made(solid)
    sheet = SMALL_SHOP[key]
    sheets = tuple(SMALL_SHOP.values()) if name == "thin fin" else (sheet,)
    report = examine(mesh, rules=usual_rule_sheet("sintered-nylon"), rule_sheets=sheets)
    assert [one.rules for one in report.verdicts] == list(sheets)
    one = next(one for one in report.verdicts if one.rules.key == key)
    found = {f.what: (f.found, f.asked) for f in one.faults}
    assert found.keys() == faults.keys()
    for what, measures in faults.items():
        assert found[what] == pytest.approx(measures, rel=0.01)
    assert one.scale == (None if scale is None else pytest.approx(scale, rel=0.01))
    assert one.weight_g == pytest.approx(mesh.volume / 1000 * sheet.density_g_cm3)
    if scale not in (None, 1.0):
        # it does pass at that size
        bigger = examine(mesh.scaled(one.scale), rules=sheet, rule_sheets=(sheet,))
        assert not [f for f in bigger.verdicts[0].faults if f.what != "sealed-voids"]


STROKES = [block(0.4, 8, 2).translate((x, 0, 5)) for x in (-6, -3, 0, 3, 6)]
RELIEF = BASE + sum(STROKES, start=Solid()).translate((0, 0, -0.4))  # 0.6 high
ENGRAVED = BASE - sum(STROKES, start=Solid()).translate((0, 0, 0.5))  # 0.5 deep
DEEP_SLITS = BASE - sum((s.scale((1, 1, 3)) for s in STROKES), start=Solid()).translate((0, 0, -10))

CUT = {
    # solid, clearance asked, engraved and embossed asked, kinds found with count and measure
    "raised strokes": (RELIEF, 0.3, 0.5, {"fine-relief": (5, 0.4)}),
    "raised strokes, fine enough": (RELIEF, 0.3, 0.3, {}),
    "grooves": (ENGRAVED, 0.3, 0.5, {"fine-engraving": (5, 0.4)}),
    "deep slits": (DEEP_SLITS, 0.5, 0.3, {"narrow-gaps": (5, 0.4)}),
    "deep slits, wide enough": (DEEP_SLITS, 0.3, 0.3, {}),
    "two blocks": (BASE + BASE.translate((20.3, 0, 0)), 0.4, 0.3, {"narrow-gaps": (1, 0.3)}),
    "a void": (Solid.sphere(20, 48) - Solid.cube((8, 8, 0.2), True), 0.4, 0.3, {}),
    "teeth": (rod(8, 12, 64) + block(4, 30, 8).translate((0, 0, 4)), 0.5, 0.5, {}),
    # a fillet leaves no alarm, nor does a groove with sloping sides
    "fillet": (BASE + (block(20, 4, 4) - rod(30, 2, 64).rotate((0, 90, 0)).translate(
        (-15, 2, 2))).translate((0, -8, 7)), 0.5, 0.5, {}),
    "crease": (
        BASE - Solid.hull(block(30, 1.6, 0.01).translate((0, 0, 5))
                          + block(30, 0.001, 0.01).translate((0, 0, 2))), 0.5, 0.5, {},
    ),
    "vee": (BASE - block(30, 3, 3).rotate((45, 0, 0)).translate((0, 0, 5)), 0.5, 0.5, {}),
}  # fmt: skip


@pytest.mark.parametrize("name", CUT)
def test_slits_and_fine_detail_are_no_walls_but_are_told(name: str) -> None:
    solid, clearance, detail, kinds = CUT[name]
    sheet = replace(
        usual_rule_sheet("sintered-nylon"), clearance=clearance, engraved=detail, embossed=detail
    )
    found = {f.kind: f for f in examine(made(solid), rules=sheet).findings}
    told = {k: f for k, f in found.items() if k.startswith(("thin", "fine", "narrow"))}
    assert told.keys() == kinds.keys()
    for kind, (count, width) in kinds.items():
        assert told[kind].count == count
        assert told[kind].severity == ("call" if kind == "narrow-gaps" else "note")
        assert told[kind].places[0].measure.startswith(f"{width:.2f} of")


def test_the_answer_stays_when_the_model_is_reduced() -> None:
    fine = made(PIPE.refine_to_length(0.7))
    coarse = made(PIPE)
    assert len(fine.faces) > 10 * len(coarse.faces)
    ours = [measure_thickness(m, 1.5).regions(1.5) for m in (fine, coarse)]
    assert ours[0].thickness[0] == pytest.approx(ours[1].thickness[0], rel=0.02)
    assert ours[0].area[0] == pytest.approx(ours[1].area[0], rel=0.02)


@pytest.mark.parametrize("percent", [50, 10])
def test_creases_of_a_reduced_sculpture_are_no_slits(percent: float) -> None:
    seal = shapes.as_mesh(shapes.concatenate(shapes.harbour_seal()))
    coarse = reduce(seal, percent=percent).mesh
    report = examine(coarse, rules=usual_rule_sheet("standard-resin"))
    assert [f.kind for f in report.findings] == []


@pytest.mark.parametrize("width", [0.3, 0.1])
def test_a_fine_ridge_does_not_hide_how_thick_its_plate_is(width: float) -> None:
    ridge = manifold3d.Manifold.cube((width, 10, 1 + width)).translate((8, 5, 3))
    made = (manifold3d.Manifold.cube((20, 20, 4)) + ridge).to_mesh()
    plate = Mesh(made.vert_properties[:, :3].astype(np.float64), made.tri_verts)
    rules = usual_rule_sheet("tough-resin")
    report = examine(plate, rules=rules, rule_sheets=tuple(usual_rule_sheets().values()))
    told = {one.kind: one.thickness for one in report.thinnest}
    assert told["thin-walls"] == pytest.approx(4.0, abs=0.01)


def conical_tube(strips: int, rows: int = 1) -> Mesh:
    """A tube 60 mm long whose wall grows from 0.4 to 2.5 mm, of long strips that run askew."""
    turn = np.arange(strips) * 2 * np.pi / strips
    rings = []
    for inner in (False, True):
        for share in np.linspace(0, 1, rows + 1):
            radius = 8 - (0.4 + 2.1 * share if inner else 0)
            around = turn + 0.05 * share
            rings.append(np.column_stack([radius * np.cos(around), radius * np.sin(around),
                                          np.full(strips, 60 * share)]))  # fmt: skip
    i, j = np.arange(strips), np.roll(np.arange(strips), -1)
    outer = [k * strips for k in range(rows + 1)]
    bore = [(rows + 1 + k) * strips for k in range(rows + 1)]
    # going round: up outside, over the top, down the bore, and across the bottom
    way = [*outer, *bore[::-1], outer[0]]
    faces = [
        half
        for low, high in pairwise(way)
        for half in (np.stack([low + i, low + j, high + j], 1),
                     np.stack([low + i, high + j, high + i], 1))
    ]  # fmt: skip
    return Mesh(np.concatenate(rings), np.concatenate(faces))


@pytest.mark.parametrize(("strips", "rows"), [(96, 1), (96, 40), (200, 1), (31, 3)])
def test_a_wall_is_of_one_kind_at_every_limit_however_it_is_divided(strips, rows) -> None:
    mesh = conical_tube(strips, rows)
    assert mesh.volume > 0
    walls = measure_thickness(mesh, 0.8, greatest=7.0)
    assert walls.could_miss(0.8) is None
    assert len(walls.samples.points) < 300_000
    flat = np.cos(np.pi / strips)  # of a ring of flat sides
    for limit in (0.5, 0.6, 0.7, 0.8, 1.0, 1.4):
        regions = walls.regions(limit)
        assert len(regions) == 1
        assert regions.thickness[0] == pytest.approx(0.4 * flat, rel=0.03)
        assert regions.free_standing[0]
        assert not regions.wire[0]
        height = (limit / flat - 0.4) / 2.1 * 60
        assert regions.height(0) == pytest.approx(height, rel=0.05, abs=0.5)
    found = examine(mesh, rules=usual_rule_sheet("tough-resin"))
    assert [one.kind for one in found.findings] == ["thin-free-walls"]


def test_what_is_thinner_than_every_limit_is_told_of_whatever_kind_it_is() -> None:
    # below 0.6 mm a plate on a block, with a corner held; below 0.8 mm held from above as well,
    # by a wing of 0.7 mm
    solid = (
        block(22, 10, 6).translate((10, 0, -3))
        + block(20, 0.5, 10).translate((10, 0, 5))
        + Solid.hull(
            block(0.01, 0.5, 2).translate((20, 0, 9)) + block(0.01, 0.7, 2).translate((22, 0, 9))
        )
        + block(20, 0.7, 12).translate((32, 0, 14))
        + block(22, 10, 6).translate((32, 0, 23))
    )
    mesh = made(solid)
    walls = measure_thickness(mesh, 0.8)
    kinds = [bool(walls.regions(limit).free_standing[0]) for limit in (0.6, 0.8)]
    assert kinds == [True, False]
    found = examine(mesh, rules=usual_rule_sheet("tough-resin"))
    assert [one.kind for one in found.findings] == ["thin-free-walls"]
    place = found.findings[0].places[0]
    assert (place.thickness, place.limit) == (pytest.approx(0.5), 0.6)
