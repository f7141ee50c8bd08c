"""Models cut into parts in other ways, joined, trimmed and moved: known answers, other judges."""

from dataclasses import replace
from itertools import pairwise

import igl
import manifold3d
import numpy as np
import pytest
import trimesh
from caulkcore import Mesh
from caulkcore.diagnose.diagnosis import Diagnosis
from caulkcore.diagnose.mating_faces import mating_vertices
from caulkcore.diagnose.standing import standing
from caulkcore.errors import OperationRefused
from caulkcore.mesh.changed_faces import changed_faces
from caulkcore.mesh.simple_solids import cuboid
from caulkcore.mesh.simple_solids import torus as ring
from caulkcore.remesh.subdivide import subdivide
from caulkcore.solid.offset_solid import offset_solid
from caulkcore.solid.plane_cut import plane_cut, section_area
from caulkjob.limits import Limits, Machine
from caulkjob.mended import Mended
from caulkjob.perform import perform
from caulkjob.remedies.grid_cut import cut_to_fit, fewest_cuts
from caulkjob.remedies.parting import cut
from caulkjob.rule_sheets import usual_rule_sheet
from harbour import breakers as b
from harbour import shapes
from makers import assert_tight_by_referees, box, hollow_box, manifold_of, sphere, torus

ACROSS = {"point": [0.0, 0.0, 14.0], "normal": [0.0, 0.0, 1.0]}
ASKEW = {"point": [20.0, 15.0, 14.0], "normal": [0.3, -0.2, 1.0]}
BLOCK = (40.0, 30.0, 30.0)


def _parts(done: Mended) -> list[Mesh]:
    """Shells that are pieces of their own, by trimesh."""
    return _split(done.mesh)


def _split(mesh: Mesh) -> list[Mesh]:
    split = trimesh.Trimesh(mesh.vertices, mesh.faces, process=False).split()
    return [Mesh(np.array(one.vertices), np.array(one.faces)) for one in split]


def _two(given: dict) -> tuple[Mesh, Mesh]:
    """Both parts of a cut of the block, where they were cut."""
    first, second = (perform(cuboid(BLOCK), "cut", {**given, "part": part}) for part in "12")
    assert first.refused is None
    return first.mesh, second.mesh


def _peg_volume(shape: str, width: float, length: float, taper: float) -> float:
    """Of a peg above its plane, by its outline's area and the frustum's formula."""
    angle = 2 * np.pi * np.arange(64) / 64
    if shape == "keyed":
        start, skip = np.arccos(0.55), np.radians(24.0)
        arc = np.linspace(start + skip, 2 * np.pi - start - skip, 62)
        angle = np.concatenate([[start], arc, [-start]])
    ring = 0.5 * width * np.stack([np.cos(angle), np.sin(angle)], axis=1)
    if shape == "square":
        ring = 0.5 * width * np.array([[-1, -1], [1, -1], [1, 1], [-1, 1]])
    cross = manifold3d.CrossSection([ring])
    # an outline grown by d has an area that is a square function of d
    lean = length * np.tan(np.radians(taper))
    areas = [cross.offset(-s * lean, manifold3d.JoinType.Miter, 20.0).area() for s in (0, 0.5, 1)]
    return length * (areas[0] + 4 * areas[1] + areas[2]) / 6


@pytest.mark.parametrize("plane", [ACROSS, ASKEW], ids=["across", "askew"])
@pytest.mark.parametrize("shape", ["round", "square", "keyed"])
def test_pegs_have_their_size_and_their_clearance_all_round(shape: str, plane: dict) -> None:
    given = {**plane, "joint": shape, "width": 6.0, "length": 7.0, "taper": 3.0, "clearance": 0.25}
    male, female = _two(given)
    assert_tight_by_referees(male)
    assert_tight_by_referees(female)
    below, above = _two(plane)
    gained = male.volume - below.volume
    assert gained == pytest.approx(2 * _peg_volume(shape, 6.0, 7.0, 3.0), rel=1e-5)
    # the fit, by libigl: from the corners of all that stands beyond the plane
    unit = np.array(plane["normal"]) / np.linalg.norm(plane["normal"])
    height = (male.vertices - plane["point"]) @ unit
    beyond = male.vertices[height > 1e-3]
    away = np.sqrt(igl.point_mesh_squared_distance(beyond, female.vertices, female.faces)[0])
    assert np.abs(away - 0.25).max() < 0.01
    socket = (female.vertices - plane["point"]) @ unit
    deepest = female.vertices[(socket > 1e-3) & (socket < 8.0)]
    back = np.sqrt(igl.point_mesh_squared_distance(deepest, male.vertices, male.faces)[0])
    assert back.min() > 0.24
    assert height.max() == pytest.approx(7.0, abs=1e-4)
    told = perform(cuboid(BLOCK), "cut", given).steps[0].text
    assert "0.250 to 0.250" in told
    # of the outside nothing is changed by a joint
    for part, plain in ((male, below), (female, above)):
        gone = changed_faces(plain, part)[0]
        side = np.abs((plain.vertices - plane["point"]) @ unit)[plain.faces].max(axis=1)
        assert not gone[side > 1e-3].any()


def test_a_keyed_peg_goes_in_one_way_only() -> None:
    male, female = _two({**ACROSS, "joint": "keyed", "spots": [[20.0, 15.0, 14.0, 3.0]]})

    def shared(turned: float) -> float:
        turn = trimesh.transformations.rotation_matrix(turned, [0, 0, 1], [20.0, 15.0, 14.0])
        moved = trimesh.transform_points(male.vertices, turn)
        solids = [manifold_of(Mesh(moved, male.faces)), manifold_of(female)]
        return float((solids[0] ^ solids[1]).volume())

    assert shared(0.0) == pytest.approx(0.0, abs=1e-6)
    assert all(shared(angle) > 1.0 for angle in np.radians([60.0, 90.0, 180.0, 270.0]))


def test_loose_pins_are_pieces_of_their_own_with_sockets_in_both_parts() -> None:
    given = {**ASKEW, "joint": "square", "width": 5.0, "clearance": 0.1, "loose": True}
    done = perform(cuboid(BLOCK), "cut", given)
    assert done.after.shells == 4
    pins = sorted(_parts(done), key=lambda one: one.volume)[:2]
    for pin in pins:
        assert pin.volume == pytest.approx(2 * _peg_volume("square", 5.0, 5.0, 2.0), rel=1e-5)
    assert "as loose pins" in done.steps[0].text
    assert "0.100 to 0.100" in done.steps[0].text


def test_magnets_and_screws_have_their_room() -> None:
    magnet = perform(cuboid(BLOCK), "cut", {
        **ACROSS, "joint": "magnet", "width": 6.0, "length": 2.0, "clearance": 0.1,
        "spots": [[20.0, 15.0, 14.0, 3.0]],
    })  # fmt: skip
    circle = 32 * np.sin(2 * np.pi / 64)  # area of 64 sides, of the radius squared
    # the flats are a clearance off those of the magnet
    radius = 3.0 + 0.1 / np.cos(np.pi / 64)
    gone = cuboid(BLOCK).volume - magnet.mesh.volume
    assert gone == pytest.approx(2 * 2.1 * circle * radius**2, rel=1e-5)
    screw = perform(cuboid(BLOCK), "cut", {
        **ACROSS, "joint": "screw", "width": 4.0, "length": 8.0, "clearance": 0.2,
        "spots": [[20.0, 15.0, 14.0, 2.0]],
    })  # fmt: skip
    pilot = 8.0 * circle * 1.6**2
    shaft = 8.0 * circle * (2.0 + 0.2 / np.cos(np.pi / 64)) ** 2
    head = 8.0 * circle * (4.0 + 0.2 / np.cos(np.pi / 64)) ** 2
    gone = cuboid(BLOCK).volume - screw.mesh.volume
    assert gone == pytest.approx(pilot + shaft + head, rel=1e-5)
    assert_tight_by_referees(screw.mesh)


@pytest.mark.parametrize(
    ("mesh", "plane"),
    [
        (lambda: sphere(20, 4), ([1.0, 2.0, 3.0], [1.0, 2.0, 3.0])),
        (torus, ([0.0, 0.0, 0.0], [1.0, 0.0, 0.0])),
        (torus, ([1.0, 2.0, 0.3], [1.0, 0.3, 0.2])),
        (lambda: hollow_box().scaled(4.0), ([0.0, 0.0, 1.3], [0.0, 0.0, 1.0])),
        (
            lambda: cuboid(BLOCK, at=(3000.0, -2000.0, 900.0)),
            ([3020.0, -1985.0, 912.0], [1.0, 2.0, 2.0]),
        ),
    ],
    ids=["a ball", "a ring across", "a ring askew", "a hollow box", "far from the origin"],
)
def test_joints_that_are_proposed_are_clear_of_the_walls(mesh, plane) -> None:
    whole = mesh()
    point, normal = plane
    rules = usual_rule_sheet("sintered-nylon")
    given = {"point": point, "normal": normal, "joint": "round", "part": "2"}
    done = perform(whole, "cut", given, rules=rules)
    assert done.refused is None
    assert_tight_by_referees(done.mesh)
    # what the joints add and take away is nowhere nearer to the skin than the sheet's wall
    fresh = changed_faces(whole, done.mesh)[1]
    unit = np.array(normal) / np.linalg.norm(normal)
    height = (done.mesh.vertices - point) @ unit
    reach = 1e-5 * np.abs(whole.vertices).max()
    off = (np.abs(height) > reach)[done.mesh.faces].any(axis=1)
    corners = done.mesh.vertices[np.unique(done.mesh.faces[fresh & off])]
    away = np.sqrt(igl.point_mesh_squared_distance(corners, whole.vertices, whole.faces)[0])
    inside = away > 10 * reach
    assert inside.sum() > 20
    assert away[inside].min() >= 0.98 * rules.wall_supported


def test_the_sheet_tells_the_clearance_of_joints() -> None:
    rules = usual_rule_sheet("sintered-nylon")
    done = perform(cuboid(BLOCK), "cut", {**ACROSS, "joint": "round"}, rules=rules)
    assert f"{rules.clearance:g} mm clear all round" in done.steps[0].text


MOST = (100.0, 60.0, 100.0)


@pytest.mark.parametrize(
    ("sides", "rooms", "cuts"),
    [
        ((250.0, 90.0, 40.0), [MOST], [2, 0, 0]),
        ((90.0, 90.0, 50.0), [MOST], [0, 0, 0]),
        ((90.0, 90.0, 90.0), [MOST], [0, 0, 1]),
        ((250.0, 90.0, 140.0), [(100.0, 100.0, 100.0)], [2, 0, 1]),
        ((250.0, 90.0, 140.0), [(100.0, 100.0, 100.0), (130.0, 150.0, 95.0)], [1, 0, 0]),
        ((100.0, 100.0, 100.0), [(100.0, 100.0, 100.0)], [0, 0, 0]),
    ],
)
def test_as_few_cuts_as_can_be(sides, rooms, cuts) -> None:
    found = fewest_cuts(np.array(sides), rooms)
    assert sum(found) == sum(cuts)
    assert sorted(found) == sorted(cuts)


@pytest.mark.parametrize(
    ("make", "room"),
    [
        (lambda: cuboid((250.0, 90.0, 140.0)), [100.0, 100.0, 100.0]),
        (torus, [15.0, 20.0, 11.0]),
        (lambda: hollow_box(), [6.0, 6.0, 6.0]),
        (lambda: b.soup(box(), box(8, (40, 0, 0))), [9.0, 9.0, 9.0]),
    ],
    ids=["a block", "a ring", "a hollow box", "two pieces"],
)
def test_parts_fit_the_room_and_add_up(make, room) -> None:
    whole = make()
    done = perform(whole, "cut-to-fit", {"room": room})
    assert done.refused is None
    assert_tight_by_referees(done.mesh, whole.volume, 1e-6)
    assert done.mesh.volume == pytest.approx(whole.volume, rel=1e-9)
    for part in _parts(done):
        assert (np.sort(part.size) <= np.sort(room) + 1e-5).all()
    # apart by as much as was asked: nothing touches
    assert done.after.shells == len(_parts(done))


@pytest.mark.parametrize("normal", [(0.0, 0.0, 1.0), (0.1, 0.2, 1.0), (-1.0, 0.0, 0.3)])
@pytest.mark.parametrize("clearance", [0.0, 0.25])
def test_a_dovetail_slides_in_from_the_side_and_holds(normal, clearance: float) -> None:
    block = cuboid((60.0, 40.0, 50.0))
    done = cut(block, (30.0, 20.0, 25.0), normal, joint="dovetail", clearance=clearance)
    numbers = done.numbers
    assert numbers["measured_mm"] == pytest.approx([clearance] * 2, abs=0.01)
    assert_tight_by_referees(done.mesh, sum(numbers["volumes_mm3"]), 1e-6)
    tail, seat = (manifold_of(one) for one in _split(Mesh(done.unmoved, done.mesh.faces)))
    way, up = np.array(numbers["slides"]), np.array(normal) / np.linalg.norm(normal)
    assert way @ up == pytest.approx(0.0, abs=1e-9)

    def shared(by: np.ndarray) -> float:
        return float((tail ^ seat.translate(by.tolist())).volume())

    # float32 leaves a film where both touch
    film = 1e-2
    assert shared(0.0 * way) < film
    for slid in (-20.0, -3.0, 3.0, 20.0):
        assert shared(slid * way) < film
    assert shared(1.0 * up) > 1.0
    # what is missing of the whole is the gap round the tail
    (one,) = numbers["joints"]
    gap = block.volume - sum(numbers["volumes_mm3"])
    side = one["length_mm"] / np.cos(np.radians(15.0))
    outline = 2 * side + one["width_mm"] + 2 * one["length_mm"] * np.tan(np.radians(15.0))
    length = gap / clearance / outline if clearance else 0.0
    assert 0.9 * 40.0 * bool(clearance) <= length <= 1.2 * 62.0
    # set off straight, the one is clear of the other
    first, second = (manifold_of(one) for one in _split(done.mesh))
    assert (first ^ second).volume() == 0.0


def test_a_dovetail_is_as_large_as_was_asked() -> None:
    given = {"joint": "dovetail", "clearance": 0.0, "width": 8.0, "length": 5.0}
    first, second = _two({**ACROSS, **given})
    tail = (8.0 + 5.0 * np.tan(np.radians(15.0))) * 5.0 * BLOCK[0]
    assert first.volume == pytest.approx(BLOCK[0] * BLOCK[1] * 14.0 + tail, rel=1e-6)
    assert first.volume + second.volume == pytest.approx(np.prod(BLOCK), rel=1e-9)


@pytest.mark.parametrize(
    ("beside", "above", "radius", "left"),
    [
        (11.0, 3.4, 2.0, 1.34),
        (0.0, 11.0, 3.0, 1.25),
        (13.0, 3.4, 2.0, None),
        (0.0, 12.0, 3.0, None),
    ],
    ids=["beside", "above", "far beside", "far above"],
)
def test_a_dovetail_stays_clear_of_holes_along_its_way(beside, above, radius, left) -> None:
    # 13 mm wide, 6.5 high, 0.25 clear, along x: 6.76 mm to each side at its foot, 8.57 at its top
    bore = manifold3d.Manifold.cylinder(80.0, radius, radius, 96).rotate((0, 90, 0))
    bore = bore.translate((-10.0, 20.0 + beside, 25.0 + above))
    block = shapes.as_mesh(manifold_of(cuboid((60.0, 40.0, 50.0))) - bore)
    sheet = replace(usual_rule_sheet("tough-resin"), wall_supported=2.0, wall_free=2.0)
    given = {"joint": "dovetail", "clearance": 0.25, "rules": sheet}
    if left is None:
        assert cut(block, (30.0, 20.0, 25.0), (0.0, 0.0, 1.0), **given).numbers["joints"]
        return
    with pytest.raises(OperationRefused, match=r"of 2\.0 mm beside or above") as told:
        cut(block, (30.0, 20.0, 25.0), (0.0, 0.0, 1.0), **given)
    assert float(str(told.value).split("would leave ")[1].split()[0]) == pytest.approx(
        left, abs=0.1
    )


def test_a_dovetail_may_come_out_of_a_round_side() -> None:
    drum = shapes.as_mesh(manifold3d.Manifold.cylinder(40.0, 25.0, 25.0, 128))
    sheet = replace(usual_rule_sheet("tough-resin"), wall_supported=1.0, wall_free=1.0)
    given = {"joint": "dovetail", "clearance": 0.2, "rules": sheet}
    done = cut(drum, (0.0, 0.0, 20.0), (0.0, 0.0, 1.0), **given)
    assert_tight_by_referees(done.mesh, sum(done.numbers["volumes_mm3"]), 1e-6)


def test_pins_join_the_parts_that_were_cut_to_fit() -> None:
    room = [80.0, 80.0, 50.0]
    done = cut_to_fit(cuboid((150.0, 150.0, 40.0)), room=room, joint="keyed", clearance=0.25)
    assert "8 loose pins" in done.done
    assert done.numbers["measured_mm"] == pytest.approx([0.25, 0.25], abs=0.01)
    assert_tight_by_referees(done.mesh, sum(done.numbers["volumes_mm3"]), 1e-6)
    here = _split(done.mesh)
    assert len(here) == 4 + 8
    # the pins are parts of their own, so that none has grown
    for part in here:
        assert (np.sort(part.size) <= np.sort(room) + 1e-5).all()
    # at their places they fill the whole but for the gaps, and none is in another
    there = [manifold_of(one) for one in _split(Mesh(done.unmoved, done.mesh.faces))]
    for i, one in enumerate(there):
        for other in there[:i]:
            assert (one ^ other).volume() == pytest.approx(0.0, abs=1e-6)
    filled = sum(one.volume() for one in there)
    assert 0.99 * 150 * 150 * 40 < filled < 150 * 150 * 40
    for one in done.numbers["joints"]:
        assert 75.0 in one["at"]


def test_where_there_is_no_room_for_pins_that_is_said() -> None:
    room = [80.0, 80.0, 50.0]
    plate = cuboid((100.0, 30.0, 2.0), at=(0.0, 60.0, 0.0))
    with pytest.raises(OperationRefused, match="has room for a pin"):
        cut_to_fit(plate, room=room, joint="round")
    done = cut_to_fit(b.soup(cuboid((120.0, 30.0, 30.0)), plate), room=room, joint="round")
    assert done.left == ("1 face of a cut has no room for a pin.",)
    assert len(done.numbers["joints"]) == 2


def test_pieces_that_fit_are_not_cut_because_of_one_that_does_not() -> None:
    row = b.soup(b.soup(box(8), box(8, (20, 0, 0))), cuboid((30.0, 8.0, 8.0), at=(40.0, 0, 0)))
    done = perform(row, "cut-to-fit", {"room": [16.0, 9.0, 9.0]})
    assert "Cut into 2 parts by 1 plane" in done.steps[0].text
    assert sorted(round(one.volume) for one in _parts(done)) == [512, 512, 960, 960]
    kept = ~changed_faces(row, done.mesh)[0]
    assert kept[:24].all()


def test_a_part_too_large_is_cut_for_the_machine_that_takes_the_fewest() -> None:
    small = Machine("Short lantern", "Powder", (100.0, 100.0, 100.0))
    long = Machine("Long lantern", "Powder", (260.0, 60.0, 100.0))
    limits = Limits(machines=(small, long), process="Powder", build_volume=(300.0, 300.0, 300.0))
    done = perform(cuboid((250.0, 90.0, 90.0)), "cut-to-fit", {}, limits=limits)
    assert done.after.shells == 2
    kinds = [{one.kind for one in report.findings} for report in (done.before, done.after)]
    assert "too-large" in kinds[0]
    # each of the parts fits, though together they take more room than before
    assert "too-large" not in kinds[1]
    again = perform(cuboid((250.0, 90.0, 190.0)), "cut", {**ACROSS, "spacing": 5.0}, limits=limits)
    told = [one.text for one in again.after.findings if one.kind == "too-large"]
    assert "The largest of its 2 parts is" in told[0]
    assert perform(cuboid(), "cut-to-fit", {}, limits=limits).refused == "It fits as it is."
    with pytest.raises(OperationRefused, match="look at its size"):
        perform(cuboid((25400.0, 20.0, 20.0)), "cut-to-fit", {}, limits=limits)


def _by_manifold(mesh: Mesh, cutter: manifold3d.Manifold) -> list[float]:
    solid = manifold_of(mesh)
    return sorted(float(one.volume()) for one in (solid - cutter, solid ^ cutter))


def _prism(corners: list[tuple[float, float]]) -> manifold3d.Manifold:
    return manifold3d.CrossSection([corners]).extrude(200.0).translate([0.0, 0.0, -100.0])


STEP = [(-30.0, 0.0), (2.0, 0.0), (4.0, 5.0), (9.0, 6.0), (30.0, 6.0)]
NOTCH = [(5.0, 5.0), (30.0, 5.0), (30.0, -10.0), (5.0, -5.0)]


@pytest.mark.parametrize(
    ("given", "cutter"),
    [
        (
            {"line": [[x, y, 3.0] for x, y in STEP]},
            lambda: _prism([(-30.0, -99.0), (30.0, -99.0), *STEP[::-1]]),
        ),
        (
            {"line": [[x, y, 3.0] for x, y in STEP[::-1]]},
            lambda: _prism([(-30.0, -99.0), (30.0, -99.0), *STEP[::-1]]),
        ),
        (
            {"line": [[x, y, 0.0] for x, y in [*NOTCH, NOTCH[0]]]},
            lambda: _prism(NOTCH[::-1]),
        ),
    ],
    ids=["a step", "the other way round", "a closed line"],
)
@pytest.mark.parametrize(
    "make", [lambda: box(20), lambda: ring(24), lambda: hollow_box().scaled(4.0)]
)
def test_a_drawn_line_parts_it_as_another_library_does(make, given, cutter) -> None:
    whole = make()
    done = perform(whole, "cut-along", {"direction": [0.0, 0.0, 1.0], **given})
    assert done.refused is None
    volumes = _by_manifold(whole, cutter())
    assert done.mesh.volume == pytest.approx(whole.volume, rel=1e-9)
    assert_tight_by_referees(done.mesh, whole.volume, 1e-6)
    parted = [np.sum([one.volume for one in _parts(done)])]
    assert parted[0] == pytest.approx(sum(volumes), rel=1e-6)
    told = done.steps[0].text
    assert all(f"{v / 1000:.2f} cm³" in told for v in volumes if v > 10)


@pytest.mark.parametrize("name", ["a tongue", "a dovetail", "a slant"])
def test_parts_of_a_line_stand_clear_however_it_runs(name: str) -> None:
    line = {
        "a tongue": [(-30, 0), (-4, 0), (-4, 6), (4, 6), (4, 0), (30, 0)],
        "a dovetail": [(-30, 0), (-3, 0), (-5, 6), (5, 6), (3, 0), (30, 0)],
        "a slant": [(-30, -3), (0, 5), (30, -3)],
    }[name]
    given = {"line": [[x, y, 0.0] for x, y in line], "direction": [0.0, 0.0, 1.0]}
    done = perform(box(20), "cut-along", given)
    assert done.refused is None
    one, other = _parts(done)
    apart = np.sqrt(
        igl.point_mesh_squared_distance(one.vertices, other.vertices, other.faces)[0].min()
    )
    assert apart > 0.2
    assert done.mesh.volume == pytest.approx(8000.0, rel=1e-9)


@pytest.mark.parametrize(
    ("given", "cutter"),
    [
        (
            {"at": [20.0, 0.0, 0.0], "size": [10.0, 10.0, 5.0]},
            lambda: manifold3d.Manifold.cube([10.0, 10.0, 5.0], True).translate([20.0, 0.0, 0.0]),
        ),
        (
            {"shape": "cylinder", "at": [20.0, 0.0, 0.0], "size": [9.0, 9.0, 60.0]},
            lambda: manifold3d.Manifold.cylinder(60.0, 4.5, 4.5, 96, True).translate([20.0, 0, 0]),
        ),
    ],
    ids=["a block", "a cylinder"],
)
def test_what_lies_in_a_block_or_cylinder_comes_out(given, cutter) -> None:
    whole = ring(48)
    done = perform(whole, "cut-out", given)
    parts = sorted(one.volume for one in _parts(done))
    assert parts == pytest.approx(_by_manifold(whole, cutter()), rel=1e-5)
    assert done.mesh.volume == pytest.approx(whole.volume, rel=1e-9)
    assert_tight_by_referees(done.mesh, whole.volume, 1e-6)


def test_a_piece_cuts_the_rest_and_is_left_out() -> None:
    two = b.soup(cuboid((20.0, 20.0, 20.0)), box(10, (20, 20, 20)))
    done = perform(two, "cut-out", {"shape": "piece", "pieces": [2]})
    assert sorted(one.volume for one in _parts(done)) == pytest.approx([125.0, 7875.0], rel=1e-9)


@pytest.mark.parametrize("clearance", [0.05, 0.3, 1.0])
def test_a_seat_has_its_clearance(clearance: float) -> None:
    turn = trimesh.transformations.rotation_matrix(0.5, [1, 2, 3])[:3, :3]
    tool = Mesh(cuboid((8.0, 6.0, 20.0)).vertices @ turn.T + [8.0, 8.0, 3.0], cuboid().faces)
    both = b.soup(cuboid((20.0, 20.0, 12.0)), tool)
    done = perform(both, "subtract", {"pieces": [2], "clearance": clearance, "keep": True})
    assert done.after.shells == 2
    assert_tight_by_referees(done.mesh)
    apart = [one for one in _parts(done)]
    samples = trimesh.sample.sample_surface(
        trimesh.Trimesh(apart[0].vertices, apart[0].faces), 20_000, seed=3
    )[0]
    away = igl.point_mesh_squared_distance(samples, apart[1].vertices, apart[1].faces)[0]
    assert np.sqrt(away.min()) == pytest.approx(clearance, rel=0.02, abs=1e-4)
    assert f"measured {clearance:.3f}" in done.steps[0].text


def test_a_seat_that_takes_up_a_whole_piece_tells_no_gap() -> None:
    three = b.soup(b.soup(box(4, (3.2, 0, 0)), box(10)), box(6, (40, 0, 0)))
    done = perform(three, "subtract", {"pieces": [2], "clearance": 0.3})
    assert done.after.shells == 1
    assert "went wholly" in done.steps[0].text
    assert "measured" not in done.steps[0].text


def test_a_solid_grown_has_each_face_as_far_off() -> None:
    fine = subdivide(cuboid(), size=2.0, rounded=False).mesh
    for grown in (offset_solid(cuboid(), 0.5), offset_solid(fine, 0.5)):
        assert grown.volume == pytest.approx(1331.0, rel=1e-6)
    ball = offset_solid(sphere(10, 4), 1.0)
    away = np.linalg.norm(ball.vertices, axis=1)
    assert np.abs(away - 11.0).max() < 0.005


@pytest.mark.parametrize("make", [box, torus, lambda: sphere(10, 3), hollow_box])
def test_the_area_of_a_section_is_what_another_library_tells(make) -> None:
    mesh = make()
    solid = manifold_of(mesh)
    low, high = (float(side[2]) for side in mesh.bounds)
    for height in np.linspace(low, high, 13)[1:-1].tolist():
        assert section_area(mesh, height) == pytest.approx(solid.slice(height).area(), rel=1e-6)


def test_a_flat_foot_has_its_area_at_the_least_loss() -> None:
    ball = sphere(20, 5)
    done = perform(ball, "flat-foot", {"area": 200.0})
    assert_tight_by_referees(done.mesh)
    z = done.mesh.vertices[:, 2]
    height = z.min() + 20.0
    # a ball's section: area = π (2 R h − h²)
    assert np.pi * (40 * height - height**2) == pytest.approx(200.0, rel=0.01)
    smaller = plane_cut(ball, np.array([0.0, 0.0, z.min() - 0.01]), np.array([0.0, 0.0, 1.0]))
    assert smaller.area < 200.0
    assert perform(ball, "flat-foot", {"height": height}).mesh.volume == pytest.approx(
        done.mesh.volume, rel=1e-6
    )


def test_whether_it_stands_is_told_with_its_margin() -> None:
    assert standing(cuboid((10.0, 20.0, 30.0))).margin == pytest.approx(
        np.degrees(np.arctan(1 / 3))
    )
    # a slanted column whose middle is beyond its foot
    leaning = cuboid((4.0, 4.0, 20.0))
    sheared = leaning.vertices + np.outer(leaning.vertices[:, 2], [0.3, 0.0, 0.0])
    found = standing(Mesh(sheared, leaning.faces))
    assert not found.stands
    # its middle is 5 from the edge of the foot's x = 4, 10 high
    assert found.margin == pytest.approx(-np.degrees(np.arctan2(1.0, 10.0)))
    judge = trimesh.Trimesh(sheared, leaning.faces)
    assert found.centre == pytest.approx(judge.center_mass)
    assert standing(sphere(10, 4)).margin == pytest.approx(0.0, abs=6.0)


PLACINGS = {
    "move": {"by": [0.0, 7.0, -2.5]},
    "turn": {"axis": [1.0, 2.0, 3.0], "degrees": 33.0},
    "mirror": {"side": "y"},
    "lay": {
        "at": [40.0, 0.0, 0.0],
        "facing": [0.0, 0.0, -1.0],
        "on": [100.0, 0.0, 0.0],
        "against": [1.0, 2.0, 3.0],
    },
}


@pytest.mark.parametrize("name", PLACINGS)
def test_a_piece_is_placed_and_the_others_stay_bit_for_bit(name: str) -> None:
    three = b.soup(b.soup(hollow_box(), box(8, (40, 0, 0))), torus())
    done = perform(three, name, {**PLACINGS[name], "pieces": [2]})
    assert done.refused is None
    was, now = (trimesh.Trimesh(m.vertices, m.faces).split() for m in (three, done.mesh))
    assert sorted(one.volume for one in now) == pytest.approx(sorted(one.volume for one in was))
    kept = ~changed_faces(three, done.mesh)[0]
    assert kept.sum() == len(three.faces) - 12
    assert done.after.shells == 4


def test_placing_is_what_its_numbers_say() -> None:
    assert perform(box(), "move", {"by": [1.0, 2.0, 3.0]}).mesh.bounds[0] == pytest.approx(
        box().bounds[0] + [1.0, 2.0, 3.0]
    )
    quarter = perform(cuboid((4.0, 2.0, 1.0)), "turn", {"degrees": 90.0}).mesh
    assert quarter.bounds.tolist() == [[1.0, -1.0, 0.0], [3.0, 3.0, 1.0]]
    # a turn of the whole keeps all distances
    turned = perform(torus(), "turn", {"axis": [1.0, 1.0, 0.0], "degrees": 77.0}).mesh
    assert turned.volume == pytest.approx(torus().volume, rel=1e-6)
    skew = cuboid((4.0, 2.0, 1.0), at=(0.5, 3.0, 7.0))
    once = perform(skew, "mirror", {"side": "x"}).mesh
    assert once.volume == pytest.approx(8.0)
    assert not changed_faces(skew, perform(once, "mirror", {"side": "x"}).mesh)[0].any()


@pytest.mark.parametrize("against", [(0, 0, 1), (0, 0, -1), (1, 0, 0), (1, 2, 3), (-3, 1, 0.5)])
@pytest.mark.parametrize("gap", [0.0, 0.75])
def test_a_piece_is_laid_face_to_face(against, gap: float) -> None:
    small = cuboid((6.0, 4.0, 2.0), at=(50.0, 10.0, 5.0))
    given = {
        "at": [53.0, 12.0, 5.0], "facing": [0, 0, -2], "on": [7.0, 8.0, 9.0],
        "against": list(against), "gap": gap, "pieces": [2],
    }  # fmt: skip
    done = perform(b.soup(cuboid(), small), "lay", given)
    (laid,) = (one for one in _parts(done) if one.volume < 100)
    assert laid.volume == pytest.approx(48.0, rel=1e-5)
    # its face lies in the plane at the gap, its middle where the point was to be
    way = np.array(against) / np.linalg.norm(against)
    heights = np.sort((laid.vertices - [7.0, 8.0, 9.0]) @ way)
    assert heights == pytest.approx([gap] * 4 + [gap + 2.0] * 4, abs=1e-5)
    foot = laid.vertices[(laid.vertices - [7.0, 8.0, 9.0]) @ way < gap + 1.0].mean(axis=0)
    assert foot == pytest.approx(np.array([7.0, 8.0, 9.0]) + gap * way, abs=1e-5)


@pytest.mark.parametrize("how", ["move", "turn", "lay"])
def test_a_piece_is_put_back_bit_for_bit(how: str) -> None:
    three = b.soup(b.soup(hollow_box(), box(8, (40, 0, 0))), torus())
    away = perform(three, how, {**PLACINGS[how], "pieces": [1]}).mesh
    away = perform(away, "turn", {"degrees": 20.0, "axis": [0, 1, 1], "pieces": [1]}).mesh
    back = perform(away, "put-back", {"others": [three], "pieces": [1]})
    assert back.refused is None
    assert _triangles(back.mesh) == _triangles(three)
    again = perform(back.mesh, "put-back", {"others": [three]})
    assert "stand there already" in (again.refused or "")


def test_of_pieces_alike_each_goes_to_the_nearest_place_and_others_are_no_piece_then() -> None:
    row = b.soup(box(8), box(8, (40, 0, 0)))
    away = perform(row, "move", {"by": [0.0, 3.0, 0.0], "pieces": [2]}).mesh
    assert _triangles(perform(away, "put-back", {"others": [row], "pieces": [2]}).mesh) == (
        _triangles(row)
    )
    # a mirrored or a stretched one is not what it was
    skew = Mesh(torus().vertices * [1.0, 1.2, 1.0] + [0.0, 0.1, 0.2], torus().faces)
    told = perform(skew, "put-back", {"others": [torus()]}).refused
    assert "not the shape" in (told or "")


def _triangles(mesh: Mesh) -> list[tuple[float, ...]]:
    return sorted(map(tuple, mesh.vertices[mesh.faces].reshape(-1, 9).tolist()))


def test_copies_stand_a_step_apart_each() -> None:
    done = perform(box(), "copy", {"by": [12.5, 0.0, 0.0], "count": 3})
    lows = sorted(one.bounds[0][0] for one in _parts(done))
    assert [y - x for x, y in pairwise(lows)] == pytest.approx([12.5] * 3)


@pytest.mark.parametrize(
    ("name", "mesh", "given", "words"),
    [
        ("cut", cuboid(BLOCK), {"joint": "round", "width": 28.0}, "has room for one"),
        ("cut", cuboid((1.0, 1.0, 30.0)), {"joint": "round"}, "has room for a joint"),
        ("cut", cuboid(BLOCK), {"joint": "round", "spots": [[3, 15, 14, 3]]}, "come through"),
        ("cut", cuboid(BLOCK), {"joint": "round", "spots": [[4.0, 15, 14, 3]]}, "would leave 0.8"),
        ("cut", cuboid(BLOCK), {"joint": "round", "spots": [[70, 15, 14, 3]]}, "not on a face"),
        (
            "cut", cuboid(BLOCK),
            {"joint": "round", "spots": [[20, 15, 14, 3], [22, 15, 14, 3]]}, "too near",
        ),
        ("cut", cuboid(BLOCK), {"joint": "dovetail", "width": 28.0}, "beside it"),
        ("cut", cuboid(BLOCK), {"joint": "dovetail", "length": 15.5}, "above it"),
        (
            "cut", b.soup(cuboid(BLOCK), cuboid(BLOCK, at=(60.0, 0.0, 0.0))),
            {"joint": "dovetail"}, "several faces",
        ),
        (
            "cut", cuboid(BLOCK),
            {"joint": "dovetail", "spots": [[20, 15, 14, 3], [22, 5, 14, 3]]}, "pick one place",
        ),
        (
            "cut", cuboid(BLOCK),
            {"joint": "round", "width": 2.0, "length": 8.0, "taper": 10.0}, "out to a point",
        ),
        ("cut-along", cuboid(), {"line": [[1, 1, 0], [1, 1, 5]]}, "no length"),
        ("cut-along", cuboid(), {"line": [[0, 0, 0], [9, 9, 0], [9, 0, 0], [0, 9, 0]]}, "crosses"),
        ("cut-along", cuboid(), {"line": [[20, 0, 0], [20, 9, 0]]}, "does not part"),
        ("cut-out", cuboid(), {}, "must be given"),
        ("cut-out", cuboid(), {"shape": "piece"}, "Name the piece"),
        ("cut-out", cuboid(), {"at": [50, 0, 0], "size": [1, 1, 1]}, "does not part"),
        ("flat-foot", cuboid(), {}, "one of them"),
        ("flat-foot", cuboid(), {"area": 200.0}, "nowhere so large"),
        ("flat-foot", cuboid(), {"height": 10.0}, "Nothing would be left"),
        ("move", cuboid(), {"by": [0, 0, 0]}, "stay where it is"),
        ("turn", cuboid(), {"degrees": 360.0}, "stay as it is"),
        ("turn", cuboid(), {"axis": [0, 0, 0], "degrees": 3.0}, "no direction"),
        (
            "lay", cuboid(),
            {"at": [0, 0, 0], "facing": [0, 0, 0], "on": [1, 0, 0], "against": [0, 0, 1]},
            "no direction",
        ),
        ("copy", cuboid(), {"by": [0, 0, 0]}, "same place"),
        ("move", cuboid(), {"by": [1, 0, 0], "pieces": [4]}, "no piece 4"),
    ],
)  # fmt: skip
def test_what_cannot_be_is_refused_with_the_reason(name, mesh, given, words) -> None:
    usual = {"cut": ACROSS, "cut-along": {"direction": [0.0, 0.0, 1.0]}}.get(name, {})
    try:
        refused = perform(mesh, name, {**usual, **given}).refused
    except OperationRefused as problem:
        refused = str(problem)
    assert refused is not None
    assert words in refused


@pytest.mark.parametrize("joint", ["none", "keyed"])
def test_mating_faces_stay_when_triangles_are_reduced(joint: str) -> None:
    ball = sphere(20, 5)
    given = {"point": [1.0, 2.0, 3.0], "normal": [1.0, 2.0, 3.0], "joint": joint}
    parted = perform(ball, "cut", given).mesh
    unit = np.array([1.0, 2.0, 3.0]) / np.sqrt(14)
    done = perform(parted, "reduce", {"percent": 20.0})
    assert "faces that mate stay" in done.steps[0].text
    assert_tight_by_referees(done.mesh, parted.volume, 0.02)
    for offset in (0.0, 1.0):
        rims = [
            {
                tuple(at)
                for at in mesh.vertices.tolist()
                if abs((np.array(at) - [1.0, 2.0, 3.0]) @ unit - offset) < 1e-5
            }
            for mesh in (parted, done.mesh)
        ]
        assert len(rims[0]) > 60
        assert rims[0] == rims[1]
    free = perform(parted, "reduce", {"percent": 20.0, "mating": False})
    assert "mate" not in free.steps[0].text
    assert len(done.mesh.faces) >= len(free.mesh.faces)


def test_faces_that_only_look_alike_do_not_mate() -> None:
    beside = b.soup(cuboid(), cuboid((10.0, 10.0, 10.0), at=(30.0, 7.0, 0.0)))
    assert not mating_vertices(Diagnosis.of(beside)).any()
    # one over the other, but of another outline
    smaller = b.soup(cuboid(), cuboid((6.0, 6.0, 6.0), at=(2.0, 2.0, 12.0)))
    assert not mating_vertices(Diagnosis.of(smaller)).any()
    assert not mating_vertices(Diagnosis.of(cuboid())).any()
