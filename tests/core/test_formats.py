import io
import os
import tracemalloc
import zipfile

import numpy as np
import pytest
import trimesh
from caulkcore import Mesh, RefusedInput
from caulkcore.mesh.triangle_mesh import face_areas
from caulkjob import examine, read, write
from caulkjob.intake import read_bytes
from hypothesis import given, settings
from hypothesis import strategies as st
from makers import SOUND, ascii_stl, binary_stl, box, hostile_files, referee, sound, sphere


@pytest.mark.parametrize("name", SOUND)
@pytest.mark.parametrize("suffix", ["stl", "obj", "ply", "off", "3mf"])
def test_what_is_written_reads_back_the_same(name: str, suffix: str, tmp_path) -> None:
    mesh = sound(name)
    path = tmp_path / f"part.{suffix}"
    write(mesh, path)
    back = read(path).mesh
    assert len(back.faces) == len(mesh.faces)
    assert back.volume == pytest.approx(mesh.volume, rel=1e-5)
    assert not list(tmp_path.glob(".*")), "no temporary file may stay"
    judged = trimesh.load(path, force="mesh")
    assert judged.volume == pytest.approx(mesh.volume, rel=1e-5)
    assert judged.is_watertight


@pytest.mark.parametrize("suffix", ["obj", "off", "3mf"])
def test_text_formats_keep_full_precision(suffix: str, tmp_path) -> None:
    mesh = sphere(1 / 3)
    write(mesh, tmp_path / f"a.{suffix}")
    back = read(tmp_path / f"a.{suffix}").mesh
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


def ply(order: str, extra: bool = True) -> bytes:
    """A cube of quads with a colour at each vertex and a quality after each face."""
    points = [(x, y, z) for z in (0, 10) for y in (0, 10) for x in (0, 10)]
    quads = [(0, 2, 3, 1), (4, 5, 7, 6), (0, 1, 5, 4), (2, 6, 7, 3), (0, 4, 6, 2), (1, 3, 7, 5)]
    name = {"": "ascii", "<": "binary_little_endian", ">": "binary_big_endian"}[order]
    head = (
        f"ply\nformat {name} 1.0\ncomment made up\nelement vertex 8\nproperty double x\n"
        "property float y\nproperty float z\nproperty uchar red\nelement face 6\n"
        "property list ushort uint vertex_index\nproperty float quality\n"
        "element edge 1\nproperty int vertex1\nend_header\n"
    ).encode()
    if not order:
        lines = [f"{x} {y} {z} 7" for x, y, z in points]
        lines += [f"4 {a} {b} {c} {d} 0.5" for a, b, c, d in quads]
        return head + "\n".join([*lines, "0", ""]).encode()
    layout = [("x", f"{order}f8"), ("y", f"{order}f4", 2), ("red", "u1")]
    vertices = np.array([(p[0], p[1:], 7) for p in points], dtype=layout)
    layout = [("n", f"{order}u2"), ("v", f"{order}u4", 4), ("q", f"{order}f4")]
    faces = np.array([(4, q, 0.5) for q in quads], dtype=layout)
    return head + vertices.tobytes() + faces.tobytes() + bytes(4)


@pytest.mark.parametrize("order", ["", "<", ">"])
def test_ply_in_all_orders_with_polygons_and_extras(order: str) -> None:
    source = read_bytes(ply(order), "a.ply")
    assert source.format == ("ply-binary" if order else "ply-ascii")
    report = examine(source.mesh)
    assert report.tight
    assert report.mesh.volume == pytest.approx(1000)


@pytest.mark.parametrize("encoding", ["ascii", "binary"])
def test_ply_written_by_others(encoding: str) -> None:
    data = trimesh.exchange.ply.export_ply(referee(sound("torus")), encoding=encoding)
    assert examine(read_bytes(data, "a.ply").mesh).tight


_CORE = "http://schemas.microsoft.com/3dmanufacturing/core/2015/02"
_TETRA = (
    '<mesh><vertices><vertex x="0" y="0" z="0"/><vertex x="30" y="0" z="0"/>'
    '<vertex x="0" y="30" z="0"/><vertex x="0" y="0" z="30"/></vertices><triangles>'
    '<triangle v1="0" v2="2" v3="1"/><triangle v1="0" v2="1" v3="3"/>'
    '<triangle v1="1" v2="2" v3="3"/><triangle v1="2" v2="0" v3="3"/></triangles></mesh>'
)
_BUILD = (
    f'<object id="1" type="model">{_TETRA}</object>'
    '<object id="2" type="model"><components><component objectid="1"/>'
    '<component objectid="1" transform="-1 0 0 0 1 0 0 0 1 -40 0 0"/></components></object>',
    '<item objectid="2"/><item objectid="1" transform="1 0 0 0 1 0 0 0 1 100 0 0"/>',
)


def package(build: tuple[str, str], unit: str = "millimeter", prolog: str = "", **parts) -> bytes:
    model = (
        f'{prolog}<model unit="{unit}" xmlns="{_CORE}"><resources>{build[0]}</resources>'
        f"<build>{build[1]}</build></model>"
    )
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as made:
        for name, text in {"3D/3dmodel.model": model, **parts}.items():
            made.writestr(name, text)
    return out.getvalue()


@pytest.mark.parametrize(
    ("unit", "name", "size"),
    [("millimeter", "mm", 30), ("inch", "in", 762), ("micron", "mm", 0.03), ("foot", "ft", 9144)],
)
def test_3mf_says_its_unit(unit: str, name: str, size: float) -> None:
    build = (f'<object id="1">{_TETRA}</object>', '<item objectid="1"/>')
    source = read_bytes(package(build, unit), "a.3mf")
    assert (source.unit.unit, source.unit.source) == (name, "file")
    assert source.mesh_mm().size == pytest.approx([size] * 3)


def test_3mf_places_components_and_turns_mirrored_ones() -> None:
    source = read_bytes(package(_BUILD), "a.3mf")
    report = examine(source.mesh)
    assert report.tight
    assert report.shells == 3
    assert report.mesh.volume == pytest.approx(3 * 30**3 / 6)
    assert report.mesh.bounds[:, 0].tolist() == [-70, 130]
    assert "2 objects" in source.notes[0]


_ONE = f'<object id="1">{_TETRA}</object>'
_LOOP = '<object id="1"><components><component objectid="1"/></components></object>'
_BOMB = "".join(
    f'<object id="{i}"><components>{f"""<component objectid="{i - 1}"/>""" * 10}'
    "</components></object>"
    for i in range(2, 12)
)


@pytest.mark.parametrize(
    ("what", "data", "word"),
    [
        ("no zip", b"PK\3\4 nothing", "not a 3MF"),
        ("cut off", package(_BUILD)[:300], "not a 3MF"),
        ("no model", package(_BUILD).replace(b"3dmodel.model", b"3dmodel.nothi"), "no 3D model"),
        ("contains itself", package((_LOOP, '<item objectid="1"/>')), "contain themselves"),
        ("a bomb of components", package((_ONE + _BOMB, '<item objectid="11"/>')), "more"),
        ("a missing object", package((_ONE, '<item objectid="7"/>')), "not there"),
        ("a wrong index", package((_ONE.replace('v3="1"', 'v3="9"'), '<item objectid="1"/>')),
         "not there"),
        ("no number", package((_ONE.replace('x="30"', 'x="wide"'), '<item objectid="1"/>')),
         "wrong at line"),
        ("broken XML", package((_ONE + "<oops", '<item objectid="1"/>')), "not valid XML"),
        ("a strange unit", package((_ONE, '<item objectid="1"/>'), "fathom"), "fathom"),
        ("entities", package((_ONE, '<item objectid="1"/>'),
         prolog='<!DOCTYPE m [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;">]>'), "entities"),
        ("a foreign file", package((_ONE, '<item objectid="1"/>'),
         prolog='<!DOCTYPE m [<!ENTITY a SYSTEM "file:///etc/passwd">]>'), "entities"),
        ("a part outside", package(_BUILD, **{"_rels/.rels":
         '<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships">'
         '<Relationship Id="r" Target="/../../etc/passwd" '
         'Type="http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel"/></Relationships>'}),
         "no part"),
    ],
)  # fmt: skip
def test_3mf_tricks_are_refused(what: str, data: bytes, word: str) -> None:
    tracemalloc.start()
    with pytest.raises(RefusedInput) as told:
        read_bytes(data, "a.3mf")
    _, most = tracemalloc.get_traced_memory()
    tracemalloc.stop()
    assert word in str(told.value)
    assert most < 50e6, "before it is unfolded"


@pytest.mark.parametrize(
    ("name", "data", "word"),
    [
        ("a.ply", ply("<")[:-70], "cut off"),
        ("a.ply", ply("")[:-90], "cut off"),
        ("a.ply", ply("").replace(b"element face 6", b"element face 6000000"), "cut off"),
        ("a.ply", ply("").replace(b"4 0 2 3 1", b"4 0 2 3 8"), "not among the 8"),
        ("a.ply", ply("").replace(b"4 0 2 3 1", b"2 0 2"), ""),
        ("a.ply", ply("").replace(b"double x", b"double u"), "no property"),
        ("a.ply", ply("").replace(b"ushort uint", b"ushort huge"), "header says"),
        ("a.ply", ply("").replace(b"double x", b"list uchar int x"), "carry lists"),
        ("a.ply", ply(">").replace(b"double x", b"list uchar int x"), "carry lists"),
        ("a.ply", ply("").replace(b"list ushort uint", b"uint"), "no list"),
        ("a.ply", ply("").replace(b"element face", b"element vertex 0\nelement face"), "twice"),
        ("a.ply", b"plying along", "not a PLY"),
        ("a.ply", b"ply\nformat ascii 1.0\nelement vertex 2\n", "no end"),
        ("a.off", b"OFF\n4 3 0\n0 0 0\n9 0 0\n", "cut off"),
        ("a.off", b"OFF\n3 1 0\n0 0 0\n9 0 0\n0 9 0\n3 0 1 3\n", "not among"),
        ("a.off", b"OFF\n999999999 3 0\n", "more than it can hold"),
        ("a.off", b"OFF\n1 0 0\n0 0 0\n", "no faces"),
        ("a.off", b"hello\n", "not a text OFF"),
    ],
)
def test_other_broken_files_are_refused(name: str, data: bytes, word: str) -> None:
    with pytest.raises(RefusedInput) as told:
        read_bytes(data, name)
    assert word in str(told.value)


@pytest.mark.parametrize("order", ["", "<", ">"])
def test_an_element_without_properties_is_passed_over(order: str) -> None:
    data = ply(order).replace(b"element face", b"element none 3\nelement face")
    assert read_bytes(data, "a.ply").mesh.volume == pytest.approx(1000)


def test_off_with_comments_and_colours() -> None:
    text = b"# made up\nCOFF # points\n4 4 0\n0 0 0 1 1 1\n9 0 0 1 1 1\n0 9 0 1 1 1\n0 0 9 1 1 1\n"
    text += b"3 0 2 1 255 0 0\n\n3 0 1 3\n3 1 2 3 # c\n3 2 0 3\n"
    assert read_bytes(text.replace(b"# made up\n", b""), "a.off").mesh.volume == pytest.approx(
        121.5
    )


FUZZED = {
    "binary STL": ("a.stl", lambda: binary_stl(box())),
    "ASCII STL": ("a.stl", lambda: ascii_stl(box())),
    "OBJ": ("a.obj", lambda: (
        b"v 0 0 0\nv 9 0 0\nv 0 9 0\nv 0 0 9\nf 1 3 2\nf 1 2 4\nf 2 3 4 1\n"
    )),
    "OFF": ("a.off", lambda: (
        b"OFF\n4 3 0\n0 0 0\n9 0 0\n0 9 0\n0 0 9\n3 0 2 1\n3 0 1 3\n4 1 2 3 0\n"
    )),
    "PLY, big-endian": ("a.ply", lambda: ply(">")),
    "PLY, ASCII": ("a.ply", lambda: ply("")),
    "3MF": ("a.3mf", lambda: package(_BUILD)),
}  # fmt: skip
# of each reader; docs/how-it-works.md says of how many it was run once
CASES = int(os.environ.get("FUZZ_CASES", "100"))


@pytest.mark.parametrize("kind", FUZZED)
@settings(max_examples=CASES, deadline=None)
@given(data=st.data())
def test_no_damage_brings_a_reader_down(kind: str, data) -> None:
    """Mutated files of each kind: a mesh with finite coordinates, or a refusal."""
    name, good = FUZZED[kind][0], FUZZED[kind][1]()
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


@pytest.mark.filterwarnings("error")
@pytest.mark.parametrize("odd", ["1e999", "-1e999", "nan", "1e300"])
def test_a_polygon_with_a_corner_that_is_no_place_loses_its_triangles_alone(odd: str) -> None:
    roof = "v 0 0 9\nv 4 0 9\nv 4 4 9\nv 2 1 9\nv 0 4 9\nf 5 6 7 8 9\n"
    text = f"v {odd} 0 0\nv 0 5 0\nv 5 5 0\nv 5 0 0\nf 1 2 3 4\n{roof}"
    mesh = read_bytes(text.encode(), "a.obj").mesh
    # an arrowhead of 16 less the notch of 6, and at most the square's half without that corner
    assert mesh.bounds[:, 2].tolist()[1] == 9
    areas = face_areas(mesh.vertices, mesh.faces)
    assert areas[mesh.vertices[mesh.faces][:, :, 2].min(axis=1) == 9].sum() == pytest.approx(10)
    assert len(areas) in (3, 4)


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
