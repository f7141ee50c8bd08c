import numpy as np
import pytest
import trimesh
from caulkcore import Mesh, RefusedInput, examine, read, write
from caulkcore.formats import read_bytes
from hypothesis import given, settings
from hypothesis import strategies as st
from makers import SOUND, ascii_stl, binary_stl, box, hostile_files, sound, sphere


@pytest.mark.parametrize("name", SOUND)
@pytest.mark.parametrize("suffix", ["stl", "obj"])
def test_what_is_written_reads_back_the_same(name: str, suffix: str, tmp_path) -> None:
    mesh = sound(name)
    path = tmp_path / f"part.{suffix}"
    write(mesh, path)
    back = read(path).mesh
    assert len(back.faces) == len(mesh.faces)
    assert back.volume == pytest.approx(mesh.volume, rel=1e-5)
    assert not list(tmp_path.glob(".*")), "no temporary file may stay"
    assert trimesh.load(path).volume == pytest.approx(mesh.volume, rel=1e-5)


def test_obj_keeps_full_precision(tmp_path) -> None:
    mesh = sphere(1 / 3)
    write(mesh, tmp_path / "a.obj")
    back = read(tmp_path / "a.obj").mesh
    corners = back.vertices[back.faces]
    assert (corners == mesh.vertices[mesh.faces]).all()


@pytest.mark.parametrize(
    ("what", "data", "form", "note"),
    [
        ("a header that begins with solid", b"solid x".ljust(80) + binary_stl(box())[80:],
         "stl-binary", ""),
        ("upper case", ascii_stl(box()).upper(), "stl-ascii", ""),
        ("tabs and carriage returns", ascii_stl(box()).replace(b"\n", b"\r\n\t"), "stl-ascii", ""),
        ("locale commas", ascii_stl(box()).replace(b".", b","), "stl-ascii", ""),
        ("no endsolid", ascii_stl(box()).rsplit(b"endsolid", 1)[0], "stl-ascii", "endsolid"),
        ("two solids", ascii_stl(box()) + ascii_stl(box(10, (30, 0, 0))), "stl-ascii", "2 solids"),
        ("a count too low", binary_stl(box())[:80] + b"\5\0\0\0" + binary_stl(box())[84:],
         "stl-binary", "holds 12"),
        ("bytes after the end", binary_stl(box()) + b"goodbye", "stl-binary", "left unread"),
        ("one face of NaN", binary_stl(box())[:96] + b"\0\0\xc0\x7f" + binary_stl(box())[100:],
         "stl-binary", "1 of 12 triangles left out"),
    ],
)  # fmt: skip
def test_odd_stl_files_are_read(what: str, data: bytes, form: str, note: str) -> None:
    source = read_bytes(data, "part.stl")
    assert source.format == form
    assert note in " ".join(source.notes)
    assert len(source.mesh.faces) in (11, 12, 24)
    assert source.mesh.size.max() in (10, 40)


def test_obj_polygons_relative_indices_and_odd_lines() -> None:
    corners = [(x, y, z) for z in (0, 10) for y in (0, 10) for x in (0, 10)]
    lines = ["# a cube", "mtllib none.mtl", "o cube", *(f"v {x} {y} {z}" for x, y, z in corners)]
    lines += ["vt 0 0", "vn 0 0 1", "f 3/1/1 4 2/1 1", "f -4//1 -3 -1 -2", "f 1 2 6 5 # front"]
    lines += ["f 4 3 \\", " 7 8", "f 3 1 5 7", "f 2 4 8 6", "l 1 2"]
    report = examine(read_bytes("\n".join(lines).encode(), "cube.obj").mesh)
    assert report.tight
    assert report.mesh.volume == pytest.approx(1000)


def test_a_concave_polygon_is_divided_inside_its_outline() -> None:
    ring = [(0, 0), (10, 0), (10, 10), (5, 2), (0, 10)]
    text = "".join(f"v {x} {y} 0\n" for x, y in ring) + "f 1 2 3 4 5\n"
    mesh = read_bytes(text.encode(), "a.obj").mesh
    assert mesh.area == pytest.approx(100 - 0.5 * 10 * 8)


def test_hostile_files_get_one_clear_line(tmp_path) -> None:
    for what, (path, word) in hostile_files(tmp_path).items():
        with pytest.raises(RefusedInput) as told:
            read(path)
        assert word in str(told.value), what
        assert "\n" not in str(told.value)


@settings(max_examples=300, deadline=None)
@given(st.data())
def test_no_damage_brings_a_reader_down(data) -> None:
    """Mutated files of each kind: a mesh with finite coordinates, or a refusal."""
    name, good = data.draw(
        st.sampled_from(
            [
                ("a.stl", binary_stl(box())),
                ("a.stl", ascii_stl(box())),
                ("a.obj", b"v 0 0 0\nv 9 0 0\nv 0 9 0\nv 0 0 9\nf 1 3 2\nf 1 2 4\nf 2 3 4 1\n"),
            ]
        )
    )
    bad = bytearray(good)
    for _ in range(data.draw(st.integers(1, 8))):
        at = data.draw(st.integers(0, len(bad) - 1))
        kind = data.draw(st.integers(0, 3))
        if kind == 0:
            bad[at] = data.draw(st.integers(0, 255))
        elif kind == 1:
            del bad[at : at + data.draw(st.integers(1, 60))]
        elif kind == 2:
            bad[at:at] = data.draw(st.binary(max_size=20))
        else:
            bad[at:at] = data.draw(st.sampled_from([b"1e999 ", b"-nan ", b"\n", b"f 1 1 1\n"]))
        if not bad:
            break
    try:
        mesh = read_bytes(bytes(bad), name).mesh
    except RefusedInput:
        return
    assert np.isfinite(mesh.vertices).all()
    examine(mesh)


@settings(max_examples=200, deadline=None)
@given(st.floats(allow_nan=False, allow_infinity=False, min_value=-1e14, max_value=1e14))
def test_numbers_are_read_as_python_reads_them(x: float) -> None:
    text = f"v {x!r} 0 1\nv 0 5 0\nv 0 0 {x:.7g}\nf 1 2 3\n"
    mesh = read_bytes(text.encode(), "a.obj").mesh
    assert x in mesh.vertices[:, 0]
    assert float(f"{x:.7g}") in mesh.vertices[:, 2]


def test_a_mesh_never_changes() -> None:
    mesh = box()
    with pytest.raises(ValueError, match="read-only"):
        mesh.vertices[0] = 0
    assert Mesh(mesh.vertices, mesh.faces).compact().volume == mesh.volume
