"""`do` runs every described operation from the command line."""

import json
from collections.abc import Callable

import numpy as np
import pytest
from caulkcore import Mesh
from caulkcore.mesh.simple_solids import torus as caulk_torus
from caulkjob import write
from caulkjob.cli import main
from caulkjob.operations import OPERATIONS
from harbour import breakers as b
from makers import assert_tight_by_referees, box, hollow_box, sphere, torus
from test_necks import blocks


def _inner(size: float, at: tuple[float, float, float] = (0, 0, 0)) -> Mesh:
    return b.soup(box(), box(size, at))


def _sheet() -> Mesh:
    points = [(0, 0, 0), (20, 0, 0), (20, 20, 0), (0, 20, 0)]
    return Mesh(points, [(0, 1, 2), (0, 2, 3)])


def _girdled() -> Mesh:
    ball = sphere()
    z = ball.vertices[ball.faces][:, :, 2]
    return b.without(ball, np.flatnonzero((z.min(axis=1) < 0.01) & (z.max(axis=1) > 0.01)))


def _bowl() -> Mesh:
    return b.without(sphere(), np.flatnonzero(b.middles(sphere())[:, 2] > -12))


def _scrap() -> Mesh:
    return b.soup(torus(), Mesh([(90, 0, 0), (91, 0, 0), (90, 1, 0)], [(0, 1, 2)]))


def _crossed() -> Mesh:
    """A ball that is pulled through itself."""
    ball = sphere(20, 3)
    x, y, z = ball.vertices.T
    return Mesh(np.stack([x, y, np.where(z > 14, z - 36 * (z - 14), z)], axis=1), ball.faces)


def _half() -> Mesh:
    cube = box()
    return b.without(cube, np.flatnonzero((cube.vertices[cube.faces][:, :, 2] > 4).all(axis=1)))


PLATE = Mesh(box().vertices * np.array([3.0, 3.0, 0.05]), box().faces)
SPOT = ["--region", "20,0,0,8"]
# operation: what is broken, the parameters, the volume that comes of it (None: whatever it was)
CASES: dict[str, tuple[Callable[[], Mesh | list[Mesh]], list[str], float | None]] = {
    "set-unit": (box, ["--unit", "cm", "--was", "mm"], 1e6),
    "drop-duplicates": (lambda: b.doubled(box(), np.array([0])), [], 1000),
    "drop-zero-area": (lambda: b.with_flat_faces(sphere(), 3, 1), [], None),
    "stitch-cracks": (lambda: b.torn(sphere(), 2, 3.0, 1e-3), [], None),
    "turn-patches": (lambda: b.turned(sphere(), np.array([3, 4])), [], None),
    "split-over-shared": (lambda: b.touching_twin(box(), 0), [], 2000),
    "give-thickness": (_sheet, ["--thickness", "0.5"], 200),
    "fill-holes": (lambda: b.without(box(), np.array([0])), ["--shape", "flat"], 1000),
    "bridge-gaps": (_girdled, [], None),
    "close-sheets": (_bowl, [], None),
    "drop-scraps": (_scrap, [], None),
    "part-pinched": (lambda: b.soup(box(), box(10, (10, 10, 10))), [], 2000),
    "turn-outward": (lambda: b.mirrored(box()), [], 1000),
    "untangle": (_crossed, ["--inverted", "drop"], None),
    "unite": (lambda: b.soup(box(), box(10, (5, 4, 3))), [], 1790),
    "close-gaps": (lambda: b.soup(box(), box(8, (9.01, 0.3, 0.2))), ["--overlap=0.03"], None),
    "fill-voids": (hollow_box, ["--places", "1"], 1000),
    "drop-buried": (lambda: _inner(4), [], 1000),
    "drop-debris": (lambda: _inner(0.2, (40, 0, 0)), [], 1000),
    "drop-pieces": (lambda: b.soup(box(), box(8, (40, 0, 0))), ["--pieces", "2"], 1000),
    "extract": (lambda: b.soup(box(), box(8, (40, 0, 0))), ["--pieces", "1"], 1000),
    "build-up": (lambda: PLATE, ["--to", "0.8", "--material", "sintered-nylon"], None),
    "thicken-necks": (lambda: blocks(9.9, 9.9), ["--to", "0.8"], None),
    "set-apart": (lambda: blocks(9.9, 9.9), ["--clearance", "0.4", "--narrower", "0.8"], None),
    "reduce": (sphere, ["--percent", "40"], None),
    "refine": (box, ["--size", "4", "--rounded", "no"], 1000),
    "smooth": (sphere, ["--rounds", "2", *SPOT], None),
    "even-out": (box, ["--size", "4"], 1000),
    "erase": (lambda: b.soup(box(), box(3, (40, 0, 0))), ["--faces", "12-23"], 1000),
    "delete-faces": (lambda: b.soup(box(), box(3, (40, 0, 0))), ["--faces", "12-23"], 1000),
    "close-here": (lambda: b.without(box(), np.array([0])), ["--faces", "0-10"], 1000),
    "turn-faces": (lambda: b.turned(sphere(), np.array([3, 4])), ["--faces", "3,4"], None),
    "push": (box, ["--faces", "0-11", "--distance", "1", "--direction", "outward"], None),
    "flatten": (sphere, ["--faces", "3,4"], None),
    "separate": (lambda: caulk_torus(24), ["--faces", "0-287,576-863", "--gap", "0.2"], None),
    "mirror-half": (_half, [], 2000),
    "scale": (box, ["--length", "20"], 8000),
    "put-back": (lambda: [box(8, (40, 0, 0)), box(8)], [], 512),
    "join-files": (lambda: [box(), box(8, (40, 0, 0))], [], 1512),
    "subtract": (lambda: [box(), box(10, (5, 4, 3))], [], 790),
    "intersect": (lambda: [box(), box(10, (5, 4, 3))], [], 210),
    "cut": (box, ["--point=0,0,1", "--normal=0,0,1"], 1000),
    "cut-to-fit": (box, ["--room=6,12,12"], 1000),
    "cut-along": (box, ["--line=0,0,0;0,9,0", "--direction=0,0,1"], 1000),
    "cut-out": (box, ["--at=5,5,5", "--size=6,6,6"], 1000),
    "flat-foot": (box, ["--height=2"], 800),
    "move": (box, ["--by=3,0,0"], 1000),
    "turn": (box, ["--degrees=30"], 1000),
    "lay": (box, ["--at=0,0,0", "--facing=0,0,-1", "--on=0,0,5", "--against=1,0,0"], 1000),
    "mirror": (box, [], 1000),
    "copy": (box, ["--by=0,20,0"], 2000),
    "recast-zone": (sphere, ["--region", "20,0,0,6;-20,0,0,6", "--detail", "0.9"], None),
    "recast": (box, ["--detail", "0.7"], 1000),
    "restore-detail": (lambda: [box(), box(10.1)], ["--reach=0.5"], 10.1**3),
}


def test_every_operation_has_a_case() -> None:
    assert CASES.keys() == {one.name for one in OPERATIONS}


@pytest.mark.parametrize("name", CASES)
def test_an_operation_from_the_command_line(name: str, tmp_path, capsys) -> None:
    make, words, volume = CASES[name]
    out, made = tmp_path / "out.3mf", make()
    files = []
    for i, mesh in enumerate([made] if isinstance(made, Mesh) else made):
        files.append(str(tmp_path / f"given{i}.3mf"))
        write(mesh, files[-1])
    code = main(["do", name, *files, "-o", str(out), *words, "--json"])
    told = json.loads(capsys.readouterr().out)
    assert told["refused"] is None
    assert [step["operation"] for step in told["steps"]] == [name]
    assert told["after"]["file"] == "out.3mf"
    assert code == (0 if told["after"]["tight"] else 1)
    assert told["after"]["tight"]
    if volume is not None:
        assert told["after"]["volume_mm3"] == pytest.approx(volume, rel=2e-3)
    from caulkjob import read

    assert_tight_by_referees(read(out).mesh, told["after"]["volume_mm3"])


@pytest.mark.parametrize(
    ("words", "code", "told"),
    [
        (["no-such"], 2, "no operation “no-such”"),
        ([], 2, "Name an operation"),
        (["fill-holes", "--shape", "round"], 2, "Shape of the fill cannot be"),
        (["fill-holes", "--depth", "3"], 2, "no parameter “--depth”"),
        (["fill-holes", "--places", "one"], 2, "cannot be “one”"),
        (["fill-holes", "--shape"], 2, "without a value"),
        (["fill-holes", "--places", "7"], 3, "There is no place 7"),
        (["fill-voids"], 3, "Refused"),
        (["reduce", "--triangles", "5000"], 3, "no more than asked for"),
    ],
)
def test_what_cannot_be_done_is_said_in_a_line(words, code, told, tmp_path, capsys) -> None:
    given, out = tmp_path / "given.stl", tmp_path / "out.stl"
    write(b.without(box(), np.array([0])), given)
    files = [str(given)] if words else []
    assert main(["do", *words[:1], *files, "-o", str(out), *words[1:]]) == code
    said = capsys.readouterr().err
    assert told in said
    assert len(said.splitlines()) == 1
    assert not out.exists()


def test_all_operations_are_told(capsys) -> None:
    assert main(["do", "--list", "--json"]) == 0
    told = json.loads(capsys.readouterr().out)
    assert [one["operation"] for one in told] == [one.name for one in OPERATIONS]
    parameters = {p["name"]: p for one in told for p in one["parameters"]}
    assert parameters["thickness"].items() >= {
        "kind": "number", "unit": "mm", "least": 0.05, "most": 50.0, "default": None
    }.items()  # fmt: skip
    assert main(["do", "--list"]) == 0
    assert "fill-holes: Closes holes" in capsys.readouterr().out
