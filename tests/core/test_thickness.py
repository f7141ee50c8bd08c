import json
from pathlib import Path

import numpy as np
import pytest
import trimesh
from caulkcore import Mesh
from caulkcore.progress import SILENT
from caulkjob import cli, commands, examine, mend, read, write
from caulkjob.operations import run_operation
from harbour import breakers as b
from harbour import shapes
from makers import assert_tight_by_referees, sphere
from test_mend import _band


def sheet(n: int, height=lambda x, y: 0 * x, size: float = 20.0) -> Mesh:
    x, y = np.meshgrid(*[np.linspace(0, size, n + 1)] * 2, indexing="ij")
    points = np.stack([x, y, height(x, y)], axis=-1).reshape(-1, 3).astype(np.float32)
    i, j = np.meshgrid(np.arange(n), np.arange(n), indexing="ij")
    a = (i * (n + 1) + j).ravel()
    c = a + n + 2
    return Mesh(
        points, np.concatenate([np.stack([a, a + n + 1, c], 1), np.stack([a, c, a + 1], 1)])
    )


def pipe(radius: float = 3.0, long: float = 5.0) -> Mesh:
    """The wall of a cylinder without its ends."""
    mesh = shapes.as_mesh(shapes.Manifold.cylinder(long, radius, radius, 120))
    upright = np.ptp(mesh.vertices[mesh.faces][:, :, 2], axis=1) > 0
    return Mesh(mesh.vertices, mesh.faces[upright]).compact()


def tee() -> Mesh:
    """Two sheets that share a line: three faces at each of its edges."""
    wall = sheet(4)
    return b.soup(wall, Mesh(wall.vertices[:, [2, 1, 0]] + np.array([10, 0, 0]), wall.faces))


def bowl() -> Mesh:
    return b.without(sphere(), np.flatnonzero(b.middles(sphere())[:, 2] > -4))


def given(mesh: Mesh, **how):
    return run_operation(mesh, "give-thickness", how, SILENT)


@pytest.mark.parametrize("side", ["both", "outward", "inward"])
@pytest.mark.parametrize(
    ("make", "thickness", "volume"),
    [
        (lambda: sheet(1), 1.5, {"both": 600, "outward": 600, "inward": 600}),
        (lambda: sheet(9), 0.2, {"both": 80, "outward": 80, "inward": 80}),
        (
            pipe,
            1.0,
            {
                "both": np.pi * (3.5**2 - 2.5**2) * 5,
                "outward": np.pi * (4**2 - 3**2) * 5,
                "inward": np.pi * (3**2 - 2**2) * 5,
            },
        ),
        # both arms keep their thickness at the bend, whose corner is outside or inside
        (
            lambda: sheet(10, lambda x, y: abs(x - 10)),
            1.0,
            {
                side: 20 * (20 * np.sqrt(2) + more)
                for side, more in (("both", 0), ("outward", -1), ("inward", 1))
            },
        ),
    ],
)
def test_a_sheet_becomes_a_wall(make, thickness: float, volume, side: str) -> None:
    outcome = given(make(), thickness=thickness, side=side)
    assert_tight_by_referees(outcome.mesh, volume[side], 2e-3)


@pytest.mark.parametrize(
    ("make", "thickness"),
    [(tee, 1.0), (bowl, 2.0), (bowl, 15.0), (bowl, 30.0), (shapes.pennant, 0.8),
     (lambda: sheet(60, lambda x, y: 0.8 * np.sin(2 * x)), 3.0)],
)  # fmt: skip
def test_it_is_sound_also_where_it_curves_tighter(make, thickness: float) -> None:
    mesh = make()
    outcome = mend(mesh, sheet_thickness=thickness)
    assert outcome.refused is None, outcome.refused
    assert_tight_by_referees(outcome.mesh)
    assert outcome.account.max_deviation_mm < 3 * thickness
    assert np.all(outcome.mesh.size > mesh.size - thickness)


def test_what_a_thickness_adds_is_told_beforehand() -> None:
    mesh = sheet(9, lambda x, y: 0.1 * np.sin(x))
    (found,) = [one for one in examine(mesh).findings if one.kind == "open-sheets"]
    (place,) = found.places
    assert place.area == pytest.approx(trimesh.Trimesh(mesh.vertices, mesh.faces).area)
    done = given(mesh, thickness=0.5)
    assert done.mesh.volume == pytest.approx(0.5 * place.area, rel=0.02)


def test_a_refusal_to_close_a_sheet_names_what_helps() -> None:
    refused = mend(sheet(4)).refused
    assert refused is not None
    assert "“Give it a thickness”" in refused


def test_a_band_of_one_side_is_left() -> None:
    mesh = Mesh(_band().vertices, _band().faces)
    outcome = given(mesh, thickness=1.0)
    assert outcome.mesh is mesh
    assert not outcome.left or "one side" in outcome.left[0]


def test_on_the_command_line(tmp_path: Path, capsys) -> None:
    flag, out = tmp_path / "pennant.stl", tmp_path / "thick.stl"
    write(shapes.pennant(), flag)
    assert (
        cli.main(["mend", str(flag), "-o", str(out), "--sheet", "1.2", "--json"]) == commands.TIGHT
    )
    told = json.loads(capsys.readouterr().out)
    assert [s["operation"] for s in told["steps"]] == ["give-thickness"]
    area = shapes.pennant().area
    assert read(out).mesh.volume == pytest.approx(1.2 * area, rel=0.02)
    assert cli.main(["mend", str(flag), "-o", str(out), "--sheet", "0"]) == commands.UNREADABLE
    assert "Thickness must be from" in capsys.readouterr().err
