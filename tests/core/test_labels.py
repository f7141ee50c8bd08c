"""What a file calls its parts is kept: read, stored, carried through mending, told by shell."""

import io
import zipfile
from pathlib import Path

import numpy as np
import pytest
import trimesh
from bench.packing import load, load_labelled, report_for_screen, save
from caulkcore import Mesh
from caulkcore.io.labels import Labels
from caulkjob import examine, mend, read, write
from caulkjob.delivery import named_solids
from caulkjob.intake import read_bytes
from harbour import breakers as b
from makers import ascii_stl, box, sphere


def obj_of(*parts: tuple[str, Mesh]) -> bytes:
    """An OBJ in which lines stand before the faces of each mesh."""
    lines, first = [], 1
    for heading, mesh in parts:
        lines += [f"v {x!r} {y!r} {z!r}" for x, y, z in mesh.vertices.tolist()]
        lines += heading.splitlines()
        lines += [f"f {a} {b_} {c}" for a, b_, c in (mesh.faces + first).tolist()]
        first += len(mesh.vertices)
    return "\n".join(lines).encode()


def names_of(data: bytes, name: str = "a.obj") -> list[str]:
    """The name of each triangle."""
    labels = read_bytes(data, name).labels
    assert labels is not None
    return [labels.names[i] for i in labels.of_face.tolist()]


@pytest.mark.parametrize(
    ("headings", "expected"),
    [
        (("o hull", "o mast"), ("hull", "mast")),
        (("g hull", "g mast"), ("hull", "mast")),
        (("o boat\ng hull", "g mast"), ("boat, hull", "boat, mast")),
        (("o boat\ng hull", "o dinghy"), ("boat, hull", "dinghy")),
        (("", "o mast"), ("", "mast")),
        (("# hull\ng", "usemtl oak\n g   two words \ns off"), ("", "two words")),
        (("o Bøye №1", "o " + "x" * 200), ("Bøye №1", "x" * 80)),
        (("o hull\r", "\tg mast\r"), ("hull", "hull, mast")),
        (("o hull\nvn 0 0 1\no deck", "o mast"), ("deck", "mast")),
    ],
)
def test_objects_and_groups_of_an_obj(headings, expected) -> None:
    data = obj_of((headings[0], box()), (headings[1], box(4, (20, 0, 0))))
    assert names_of(data) == [expected[0]] * 12 + [expected[1]] * 12


def test_solids_of_an_ascii_stl() -> None:
    data = ascii_stl(box(), "the hull") + ascii_stl(box(4, (20, 0, 0)), "mast")
    assert names_of(data, "a.stl") == ["the hull"] * 12 + ["mast"] * 12
    same = ascii_stl(box()) + ascii_stl(box(4, (20, 0, 0)))
    assert read_bytes(same, "a.stl").labels is None


@pytest.mark.parametrize("headings", [("", ""), ("o part", ""), ("g a", "g a")])
def test_one_name_for_all_tells_nothing(headings) -> None:
    data = obj_of((headings[0], box()), (headings[1], box(4, (20, 0, 0))))
    assert read_bytes(data, "a.obj").labels is None


def test_polygons_and_lost_triangles_keep_the_names_in_step() -> None:
    corners = "v 0 0 0\nv 9 0 0\nv 9 9 0\nv 4 5 0\nv 0 9 0\nv nan 0 1\nv 0 0 7\n"
    data = (corners + "g five\nf 1 2 3 4 5\ng lost\nf 1 2 6\ng three\nf 1 2 7\n").encode()
    assert names_of(data) == ["five"] * 3 + ["three"]


def package(objects: str, build: str) -> bytes:
    core = "http://schemas.microsoft.com/3dmanufacturing/core/2015/02"
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as made:
        made.writestr(
            "3D/3dmodel.model",
            f'<model unit="millimeter" xmlns="{core}"><resources>{objects}</resources>'
            f"<build>{build}</build></model>",
        )
    return out.getvalue()


def an_object(number: int, mesh: Mesh, name: str = "") -> str:
    vertices = "".join(f'<vertex x="{x}" y="{y}" z="{z}"/>' for x, y, z in mesh.vertices.tolist())
    faces = "".join(f'<triangle v1="{a}" v2="{b_}" v3="{c}"/>' for a, b_, c in mesh.faces.tolist())
    named = f' name="{name}"' if name else ""
    return (
        f'<object id="{number}" type="model"{named}><mesh><vertices>{vertices}</vertices>'
        f"<triangles>{faces}</triangles></mesh></object>"
    )


def test_objects_of_a_3mf() -> None:
    data = package(
        an_object(1, box(), "crate &amp; lid") + an_object(2, box(4)),
        '<item objectid="1"/><item objectid="2" transform="1 0 0 0 1 0 0 0 1 30 0 0"/>'
        '<item objectid="1" transform="1 0 0 0 1 0 0 0 1 60 0 0"/>',
    )
    names = names_of(data, "a.3mf")
    assert names == ["crate & lid"] * 12 + ["Object 2"] * 12 + ["crate & lid"] * 12


def assembly() -> tuple[Mesh, Labels]:
    """A holed ball and a box in a box, and what they are called."""
    ball = b.without(sphere(10, 2), np.array([0, 90]))
    data = obj_of(
        ("o buoy", ball),
        ("o crate", box(20, (40, 0, 0))),
        ("o stone", box(4, (40, 0, 0))),
    )
    source = read_bytes(data, "a.obj")
    assert source.labels is not None
    return source.mesh, source.labels


def told(mesh: Mesh, labels: Labels | None) -> dict[str, str]:
    pieces = report_for_screen(examine(mesh), labels)["pieces"]
    return {line["name"]: line["what"] for line in pieces}


def test_names_go_with_the_shells_through_mending() -> None:
    mesh, labels = assembly()
    expected = {"buoy": "outer skin", "crate": "outer skin", "stone": "buried solid"}
    assert told(mesh, labels) == expected
    outcome = mend(mesh, buried="keep")
    assert outcome.refused is None
    assert len(outcome.mesh.faces) == len(mesh.faces) + 2
    carried = labels.carried(mesh, outcome.mesh)
    assert told(outcome.mesh, carried) == expected
    assert set(told(mesh, None)) == {""}
    assert labels.carried(mesh, mesh) is labels


@pytest.mark.parametrize(
    ("of_face", "expected"),
    [
        ([0, 0, 0, 1], ["a", "b"]),
        ([0, 1, 1, 1], ["b, a", "b"]),
        ([0, 1, 2, 3], ["a, b and 1 more", "d"]),
    ],
)
def test_a_shell_of_several_names(of_face, expected) -> None:
    labels = Labels(("a", "b", "c", "d"), np.array(of_face))
    assert labels.of_shells(np.array([0, 0, 0, 1]), 2) == expected
    assert labels.of_shells(np.array([-1, -1, -1, -1]), 1) == [""]


def test_names_rest_with_the_mesh() -> None:
    mesh, labels = assembly()
    stream = io.BytesIO()
    save(mesh, stream, labels)
    stream.seek(0)
    back, named = load_labelled(stream)
    assert named is not None
    assert named.names == ("buoy", "crate", "stone")
    assert np.array_equal(named.of_face, labels.of_face)
    assert np.array_equal(back.faces, mesh.faces)
    stream.seek(0)
    assert np.array_equal(load(stream).vertices, mesh.vertices)


@pytest.mark.parametrize("suffix", ["obj", "3mf"])
def test_solids_are_written_as_parts_with_their_names(suffix: str, tmp_path: Path) -> None:
    """A box with a hollow, another beside it, a ball: three solids, their names kept."""
    hollow = Mesh(box(4).vertices, box(4).faces[:, ::-1])
    ball = Mesh(sphere(3).vertices + np.array([40.0, 0, 0]), sphere(3).faces)
    mesh = b.soup(box(10), hollow, box(10, (20, 0, 0)), ball)
    of_face = np.repeat([0, 0, 1, 1], [12, 12, 12, len(ball.faces)])
    labels = Labels.of(["float", "mooring"], of_face)
    parts = named_solids(mesh, "buoy", labels)
    assert [(p.name, len(p.faces)) for p in parts] == [
        ("float", 24),
        ("mooring", 12),
        ("mooring", len(ball.faces)),
    ]
    path = tmp_path / f"buoy.{suffix}"
    write(mesh, path, "buoy", objects=parts)
    back = read(path)
    assert np.array_equal(np.sort(back.mesh.vertices, axis=0), np.sort(mesh.vertices, axis=0))
    assert trimesh.load(path, force="mesh").volume == pytest.approx(mesh.volume, rel=1e-9)
    assert back.labels is not None
    assert set(back.labels.names) == {p.name for p in parts}


def test_solids_without_names_are_numbered() -> None:
    two = b.soup(box(10), box(10, (20, 0, 0)))
    assert [p.name for p in named_solids(two, "cleat")] == ["cleat 1", "cleat 2"]
    assert [p.name for p in named_solids(box(), "cleat")] == ["cleat"]
