"""Necks of material: where thick parts hang together by little, found, measured and mended."""

import json
from pathlib import Path

import igl
import numpy as np
import pytest
from caulkcore import Mesh, OperationRefused
from caulkcore.diagnose.diagnosis import Diagnosis
from caulkcore.progress import SILENT
from caulkcore.remesh.subdivide import subdivide
from caulkcore.thickness.necks import Necks
from caulkcore.thickness.thickness_map import measure_thickness
from caulkjob import examine
from caulkjob.cli import main
from caulkjob.operations import run_operation
from caulkjob.remedies.narrow_necks import set_apart, thicken_necks
from caulkjob.rule_sheets import usual_rule_sheet
from makers import assert_tight_by_referees, binary_stl
from test_walls import block, made, rod

NYLON = usual_rule_sheet("sintered-nylon")  # walls that are held 0.7, clearance 0.4
LIMIT = 0.8


def balls(waist: float, radius: float = 8.0, sides: int = 96, steps: int = 60) -> Mesh:
    """Two balls that overlap in a lens so wide, turned on a lathe: finely divided at the waist."""
    away = np.sqrt(radius**2 - (waist / 2) ** 2)
    first = np.arcsin(waist / 2 / radius)
    angle = first + (np.pi - first) * np.linspace(0, 1, steps)[:-1] ** 2.5
    right = np.stack([away - radius * np.cos(angle), radius * np.sin(angle)], axis=1)
    line = np.concatenate([(right[1:] * [-1, 1])[::-1], right])
    turn = 2 * np.pi * np.arange(sides) / sides
    rings = np.stack(
        [
            np.repeat(line[:, 0], sides),
            np.outer(line[:, 1], np.cos(turn)).ravel(),
            np.outer(line[:, 1], np.sin(turn)).ravel(),
        ],
        axis=1,
    )
    n = len(rings)
    vertices = np.vstack([rings, [[-away - radius, 0, 0], [away + radius, 0, 0]]])
    at = np.arange(n - sides)
    on = at - at % sides + (at + 1) % sides
    j = np.arange(sides)
    onward = (j + 1) % sides
    faces = np.concatenate(
        [
            np.stack([at, on + sides, on], axis=1),
            np.stack([at, at + sides, on + sides], axis=1),
            np.stack([np.full(sides, n), j, onward], axis=1),
            np.stack([np.full(sides, n + 1), n - sides + onward, n - sides + j], axis=1),
        ]
    )
    mesh = Mesh(vertices.astype(np.float32).astype(float), faces)
    return mesh if mesh.volume > 0 else Mesh(mesh.vertices, mesh.faces[:, ::-1])


def blocks(x: float, y: float, z: float = 0.0) -> Mesh:
    """Two blocks of 10 mm, the second moved."""
    return made(block(10, 10, 10) + block(10, 10, 10).translate((x, y, z)))


NECKS = {
    "a lens of 0.5": (lambda: balls(0.5), 0.5),
    "a lens of 0.02": (lambda: balls(0.02), 0.02),
    "a lens just under the limit": (lambda: balls(0.78), 0.78),
    "blocks over a hair along an edge": (lambda: blocks(9.98, 9.98), 0.02 * 2**0.5),
    "blocks over a hair at a corner": (lambda: blocks(9.98, 9.98, 9.98), 0.02 * 2**0.5),
    "blocks side by side on a strip": (lambda: blocks(10.0, 9.98), 0.02),
    "a ball and a plate": (
        lambda: made(block(20, 20, 6).translate((0, 0, -3)) + cone_to(0.3)),
        0.3,
    ),
}
NO_NECKS = {
    "balls that overlap well": lambda: balls(4.0),
    "blocks on half a side": lambda: blocks(9.98, 5.0),
    "a bracket": lambda: made(block(20, 10, 3) + block(3, 10, 20).translate((8, 0, 8))),
    "pipes across each other": lambda: made(
        rod(40, 5).translate((0, 0, -20)) + rod(40, 5).translate((0, 0, -20)).rotate((90, 0, 0))
    ),
    # what is thin by itself is told as a wall, and once
    "a thin plate between blocks": lambda: made(
        block(10, 10, 10) + block(30, 10, 0.5) + block(10, 10, 10).translate((20, 0, 0))
    ),
    # detail is no part
    "a crumb on a block": lambda: made(
        block(10, 10, 10) + block(0.6, 0.6, 0.6).translate((5.2, 5.2, 0))
    ),
}


def cone_to(waist: float) -> object:
    """A stout cone with a flat tip of a width, standing on it, a ball's worth of material above."""
    from manifold3d import Manifold

    return Manifold.cylinder(8, waist / 2, 8, 96)


def necks(mesh: Mesh, limit: float = LIMIT) -> Necks:
    return measure_thickness(mesh, limit).necks(limit)


@pytest.mark.parametrize("name", NECKS)
def test_a_neck_is_found_and_measured(name: str) -> None:
    make, width = NECKS[name]
    found = necks(make())
    assert len(found) == 1
    assert found.width[0] == pytest.approx(width, rel=0.05)


@pytest.mark.parametrize("name", NO_NECKS)
def test_what_is_no_neck_is_none(name: str) -> None:
    assert len(necks(NO_NECKS[name]())) == 0


@pytest.mark.parametrize("size", [2.0, 0.4])
def test_it_does_not_matter_how_the_faces_are_divided(size: float) -> None:
    mesh = blocks(9.98, 9.98)
    finer = subdivide(mesh, size=size, rounded=False).mesh
    assert len(finer.faces) > 10 * len(mesh.faces)
    one, other = necks(mesh), necks(finer)
    assert len(one) == len(other) == 1
    assert other.width == pytest.approx(one.width, rel=0.01)


def test_it_is_the_same_however_it_lies() -> None:
    mesh = balls(0.5)
    turn = np.linalg.qr(np.random.default_rng(3).normal(size=(3, 3)))[0]
    turned = Mesh(mesh.vertices @ turn.T + 40, mesh.faces)
    turned = turned if turned.volume > 0 else Mesh(turned.vertices, turned.faces[:, ::-1])
    assert necks(turned).width == pytest.approx(necks(mesh).width, rel=1e-3)


def test_a_neck_is_told_like_a_thin_wall() -> None:
    report = examine(blocks(9.7, 9.7), rules=NYLON, rule_sheets=(NYLON,))
    (finding,) = [f for f in report.findings if f.kind == "thin-necks"]
    assert (finding.severity, finding.count) == ("call", 1)
    assert finding.places[0].measure == "0.42 of 0.70 mm"
    assert len(finding.places[0].lines) == 2  # both creases of it
    (verdict,) = report.verdicts
    assert [(f.what, f.places) for f in verdict.faults] == [("thin-necks", 1)]
    assert verdict.scale == pytest.approx(0.7 / (0.3 * 2**0.5), rel=0.01)


def test_the_command_line_tells_necks(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    path = tmp_path / "two.stl"
    path.write_bytes(binary_stl(blocks(9.98, 9.98)))
    assert main(["walls", str(path), "--min", "0.8", "--json"]) == 1
    told = json.loads(capsys.readouterr().out)
    assert [one["neck"] for one in told["regions"]] == [True]
    assert told["thinnest_mm"] == pytest.approx(0.0283, rel=0.01)
    assert main(["walls", str(path), "--min", "0.8"]) == 1
    assert "neck between two thick parts" in capsys.readouterr().out


SOUND = [name for name in NECKS if name != "a lens just under the limit"]


@pytest.mark.parametrize("name", SOUND)
def test_a_collar_makes_it_as_wide_as_asked(name: str) -> None:
    mesh = NECKS[name][0]()
    result = thicken_necks(mesh, to=LIMIT)
    assert result.left == ()
    assert_tight_by_referees(result.mesh)
    assert len(necks(result.mesh, LIMIT * 0.999)) == 0
    more = result.mesh.volume - mesh.volume
    # not more than a bar as wide and long as the collar
    assert 0 <= more < 14 * LIMIT**2
    assert examine(result.mesh).shells == 1


@pytest.mark.parametrize("name", SOUND)
def test_set_apart_the_parts_are_a_gap_from_each_other(name: str) -> None:
    mesh = NECKS[name][0]()
    result = set_apart(mesh, clearance=0.4, narrower=LIMIT)
    assert result.left == ()
    assert_tight_by_referees(result.mesh)
    by_shell = Diagnosis(result.mesh).by_shell
    assert len(by_shell) == 2
    whole = result.mesh
    one, other = (Mesh(whole.vertices, whole.faces[by_shell[i]]).compact() for i in (0, 1))
    gap = min(
        np.sqrt(
            igl.point_mesh_squared_distance(a.vertices, b.vertices, b.faces.astype(np.int64))[0]
        ).min()
        for a, b in ((one, other), (other, one))
    )
    assert gap == pytest.approx(0.4, rel=0.02)


@pytest.mark.parametrize(("shift", "far"), [(0.0, 200.0), (0.0, 3000.0), (2000.0, 100.0)], ids=str)
def test_what_lies_far_off_is_not_beside_a_neck(shift: float, far: float) -> None:
    two = block(10, 10, 10) + block(10, 10, 10).translate((9.98, 9.98, 0))
    mesh = made((two + block(10, 10, 10).translate((far, 0, 0))).translate((shift,) * 3))
    result = set_apart(mesh, clearance=0.4, narrower=LIMIT)
    assert result.left == ()
    assert_tight_by_referees(result.mesh)
    assert Diagnosis(result.mesh).shells[1] == 3


def test_by_the_sheet_both_take_what_the_material_asks_for() -> None:
    mesh = blocks(9.98, 9.98)
    for name, words in (("thicken-necks", "0.70 mm wide"), ("set-apart", "by 0.40 mm")):
        result = run_operation(mesh, name, {"places": [1]}, SILENT, rules=NYLON)
        assert words in result.done
        kinds = {f.kind for f in examine(result.mesh, rules=NYLON).findings}
        assert "thin-necks" not in kinds


@pytest.mark.parametrize("copies", [1, 2])
def test_parts_that_hang_together_elsewhere_are_not_cut(copies: int) -> None:
    """Two blocks over a hair along an edge, and a yoke that holds them from outside."""
    two = block(10, 10, 10) + block(10, 10, 10).translate((9.98, 9.98, 0))
    yoke = block(4, 20, 10).translate((-5, 13, 0)) + block(20, 4, 10).translate((3, 21, 0))
    one = two + yoke + block(4, 10, 10).translate((12, 18, 0))
    mesh = made(sum((one.translate((60 * i, 0, 0)) for i in range(1, copies)), one))
    result = set_apart(mesh, clearance=0.3, narrower=LIMIT)
    assert result.mesh is mesh
    (told,) = result.left
    assert "hang together elsewhere" in told
    assert ("the worst of 2 such places" in told) == (copies == 2)


@pytest.mark.parametrize(
    ("call", "words"),
    [
        (lambda m: thicken_necks(m), "no rules"),
        (lambda m: set_apart(m, narrower=1.0), "no clearance"),
        (lambda m: thicken_necks(m, places=[4], to=1.0), "no place 4"),
    ],
)
def test_what_cannot_be_done_is_refused(call, words: str) -> None:
    with pytest.raises(OperationRefused, match=words):
        call(blocks(9.98, 9.98))


def test_where_there_is_none_nothing_is_done() -> None:
    alone = made(block(10, 10, 10))
    for result in (thicken_necks(alone, to=1.0), set_apart(alone, clearance=0.3, narrower=1.0)):
        assert result.mesh is alone
        assert result.left == ("There is no neck narrower than that.",)
