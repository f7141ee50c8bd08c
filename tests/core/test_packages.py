"""3MF packages that others write and read: lib3mf is the referee; and what text files carry."""

import tracemalloc
from pathlib import Path

import lib3mf
import numpy as np
import pytest
from caulkcore import Mesh, RefusedInput
from caulkcore.io import files
from caulkcore.io.labels import NamedFaces
from caulkjob.intake import read_bytes
from harbour import breakers as b
from makers import box, sound, sphere
from test_formats import package

_SPACES = "http://schemas.microsoft.com/3dmanufacturing/"


def their_mesh(mesh: lib3mf.MeshObject) -> Mesh:
    vertices = [list(one.Coordinates) for one in mesh.GetVertices()]
    return Mesh(vertices, [list(one.Indices) for one in mesh.GetTriangleIndices()])


def fill(target: lib3mf.MeshObject, mesh: Mesh) -> None:
    points = [lib3mf.Position((lib3mf.ctypes.c_float * 3)(*v)) for v in mesh.vertices.tolist()]
    faces = [lib3mf.Triangle((lib3mf.ctypes.c_uint32 * 3)(*f)) for f in mesh.faces.tolist()]
    target.SetGeometry(points, faces)


def moved(x: float) -> lib3mf.Transform:
    return lib3mf.get_wrapper().GetTranslationTransform(x, 0.0, 0.0)


def written(model: lib3mf.Model) -> bytes:
    return bytes(model.QueryWriter("3mf").WriteToBuffer())


@pytest.mark.parametrize("name", ["valve wheel", "half hull"])
def test_what_we_write_is_read_by_the_reference(tmp_path: Path, name: str) -> None:
    mesh = sound(name)
    path = tmp_path / "a.3mf"
    files.write(mesh, path, name)
    model = lib3mf.get_wrapper().CreateModel()
    reader = model.QueryReader("3mf")
    reader.SetStrictModeActive(True)
    reader.ReadFromFile(str(path))
    assert reader.GetWarningCount() == 0
    assert model.GetUnit() == lib3mf.ModelUnit.MilliMeter
    (found,) = (
        model.GetMeshObjectByID(one.GetResourceID()) for one in _all(model.GetMeshObjects())
    )
    assert found.GetName() == name
    assert found.IsManifoldAndOriented()
    assert their_mesh(found).volume == pytest.approx(mesh.volume, rel=1e-6)


def _all(iterator) -> list:
    found = []
    while iterator.MoveNext():
        found.append(iterator.GetCurrentMeshObject())
    return found


def test_parts_that_we_write_are_objects_for_the_reference(tmp_path: Path) -> None:
    both = b.soup(box(), box(4.0, (30, 0, 0)))
    path = tmp_path / "a.3mf"
    parts = [NamedFaces("crate", np.arange(12)), NamedFaces("float", np.arange(12, 24))]
    files.write(both, path, "two", objects=parts)
    model = lib3mf.get_wrapper().CreateModel()
    model.QueryReader("3mf").ReadFromFile(str(path))
    found = {one.GetName(): their_mesh(one).volume for one in _all(model.GetMeshObjects())}
    assert found == pytest.approx({"crate": 1000.0, "float": 64.0})


def _model_of_parts() -> lib3mf.Model:
    """A box in the root model; a ball and a smaller box in parts of their own, with one number."""
    model = lib3mf.get_wrapper().CreateModel()
    here = model.AddMeshObject()
    fill(here, box())
    model.AddBuildItem(here, moved(0.0))
    for number, (mesh, x) in enumerate(((sphere(5.0), 40.0), (box(4.0), 80.0))):
        other = model.FindOrCreatePackagePart(f"/3D/other{number}.model")
        one = model.AddMeshObject()
        one.SetPackagePart(other)
        fill(one, mesh)
        both = model.AddComponentsObject()
        both.AddComponent(one, moved(x))
        model.AddBuildItem(both, moved(1.0))
    return model


def test_objects_in_other_parts_are_read_at_their_places() -> None:
    source = read_bytes(written(_model_of_parts()), "a.3mf")
    expected = box().volume + sphere(5.0).volume + box(4.0).volume
    assert source.mesh.volume == pytest.approx(expected, rel=1e-6)
    assert source.mesh.bounds[:, 0] == pytest.approx([-5, 83])
    assert "3 objects" in " ".join(source.notes)


_TETRA = (
    '<mesh><vertices><vertex x="0" y="0" z="0"/><vertex x="{0}" y="0" z="0"/>'
    '<vertex x="0" y="{0}" z="0"/><vertex x="0" y="0" z="{0}"/></vertices><triangles>'
    '<triangle v1="0" v2="2" v3="1"/><triangle v1="0" v2="1" v3="3"/>'
    '<triangle v1="0" v2="3" v3="2"/><triangle v1="1" v2="2" v3="3"/></triangles></mesh>'
)


def _part(size: float, unit: str = "millimeter") -> str:
    return (
        f'<model unit="{unit}" xmlns="{_SPACES}core/2015/02"><resources><object id="1">'
        f"{_TETRA.format(size)}</object></resources><build/></model>"
    )


def _referring(path: str = "/3D/Other.model", size: float = 30, **parts: str) -> bytes:
    """The root's object 1 is 30 mm; the build asks for object 1 of another part."""
    ask = f'<item objectid="1" xmlns:p="{_SPACES}production/2015/06" p:path="{path}"/>'
    own = f'<object id="1">{_TETRA.format(30)}</object>'
    return package((own, ask), **(parts or {"3D/Other.model": _part(size)}))


def test_the_object_of_the_other_part_is_taken_and_not_its_namesake() -> None:
    source = read_bytes(_referring(size=6), "a.3mf")
    assert source.mesh.volume == pytest.approx(36)


def test_another_part_counts_in_its_own_unit() -> None:
    data = _referring(**{"3D/other.model": _part(6, "centimeter")})
    assert read_bytes(data, "a.3mf").mesh.volume == pytest.approx(36_000)


def _asking(prefix: str, space: str, inner: str = "") -> bytes:
    """A package that requires an extension."""
    own = f'<object id="1">{_TETRA.format(9)}{inner}</object>'
    data = package((own, '<item objectid="1"/>'))
    import io
    import zipfile

    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(data)) as given, zipfile.ZipFile(out, "w") as made:
        for name in given.namelist():
            text = given.read(name).decode()
            more = f'<model requiredextensions="{prefix}" xmlns:{prefix}="{space}" '
            made.writestr(name, text.replace("<model ", more))
    return out.getvalue()


@pytest.mark.parametrize(
    ("data", "word"),
    [
        (_asking("b", f"{_SPACES}beamlattice/2017/02"), "beam lattices"),
        (_asking("s", f"{_SPACES}slice/2015/07"), "slices"),
        (_asking("o", f"{_SPACES}booleanoperations/2023/07"), "unions of objects"),
        (_asking("x", "http://harbour.example/tide/2030"), "harbour.example/tide"),
        (_referring("/3D/missing.model"), "no part"),
        (_referring(**{"3D/Other.model": "<oops"}), "not valid XML"),
    ],
)
def test_what_is_not_understood_is_refused_by_name(data: bytes, word: str) -> None:
    with pytest.raises(RefusedInput) as told:
        read_bytes(data, "a.3mf")
    assert word in str(told.value)


@pytest.mark.parametrize("space", ["production/2015/06", "material/2015/02"])
def test_what_does_not_change_the_shape_may_be_required(space: str) -> None:
    assert read_bytes(_asking("e", _SPACES + space), "a.3mf").mesh.volume == pytest.approx(121.5)


def test_beams_beside_triangles_are_told() -> None:
    beams = (
        f'<l:beamlattice xmlns:l="{_SPACES}beamlattice/2017/02"><l:beams><l:beam v1="0" v2="1"/>'
    )
    beams += "</l:beams></l:beamlattice>"
    own = f'<object id="1">{_TETRA.format(9)}</object>'.replace("</mesh>", beams + "</mesh>")
    source = read_bytes(package((own, '<item objectid="1"/>')), "a.3mf")
    assert source.notes == ("1 beam left out: only triangles are read.",)


def _coloured_package() -> bytes:
    model = lib3mf.get_wrapper().CreateModel()
    one = model.AddMeshObject()
    fill(one, box())
    group = model.AddColorGroup()
    colour = group.AddColor(lib3mf.Color(255, 80, 0, 255))
    one.SetObjectLevelProperty(group.GetResourceID(), colour)
    model.AddBuildItem(one, moved(0.0))
    return written(model)


_PLY = (
    "ply\nformat ascii 1.0\n{0}element vertex 4\nproperty float x\nproperty float y\n"
    "property float z\n{1}element face 4\nproperty list uchar int vertex_indices\nend_header\n{2}"
    "3 0 2 1\n3 0 1 3\n3 0 3 2\n3 1 2 3\n"
)
_POINTS = ("0 0 0", "9 0 0", "0 9 0", "0 0 9")
_OBJ = "".join(f"v {p}\n" for p in _POINTS) + "f 1 3 2\nf 1 2 4\nf 1 4 3\nf 2 3 4\n"


@pytest.mark.parametrize(
    ("name", "data", "note"),
    [
        ("a.3mf", _coloured_package(), "colours"),
        ("a.obj", _OBJ.replace("v 0 0 0\n", "v 0 0 0 1 0.5 0\n").encode(), "colours"),
        ("a.obj", (_OBJ + "vt 0 0\nusemtl brass\n").encode(), "textures and materials"),
        (
            "a.ply",
            _PLY.format(
                "", "property uchar red\nproperty uchar green\nproperty uchar blue\n",
                "".join(f"{p} 255 0 0\n" for p in _POINTS),
            ).encode(),
            "colours",
        ),
        (
            "a.ply",
            _PLY.format("tide high\n", "", "".join(f"{p}\n" for p in _POINTS)).encode(),
            "“tide high”, which means nothing",
        ),
    ],
)  # fmt: skip
def test_what_is_lost_or_means_nothing_is_told(name: str, data: bytes, note: str) -> None:
    source = read_bytes(data, name)
    assert len(source.notes) == 1
    assert note in source.notes[0]
    assert source.mesh.volume == pytest.approx(1000.0 if name == "a.3mf" else 121.5)


@pytest.mark.parametrize("encoding", ["utf-8-sig", "utf-16"])
def test_a_byte_order_mark_is_honoured(encoding: str) -> None:
    assert read_bytes(_OBJ.encode(encoding), "a.obj").mesh.volume == pytest.approx(121.5)


@pytest.mark.parametrize("suffix", ["3mf", "ply"])
def test_memory_of_reading_grows_with_the_file(suffix: str, tmp_path: Path) -> None:
    mesh = sphere(20.0, 6)
    if suffix == "3mf":
        path = tmp_path / "a.3mf"
        files.write(mesh, path, "ball")
        data, most = path.read_bytes(), 200 * len(mesh.faces)
    else:
        lines = "".join(f"{x:.6f} {y:.6f} {z:.6f}\n" for x, y, z in mesh.vertices.tolist())
        faces = "".join(f"3 {a} {c} {d}\n" for a, c, d in mesh.faces.tolist())
        head = _PLY.split("3 0 2 1")[0].format("", "", lines)
        head = head.replace("vertex 4", f"vertex {len(mesh.vertices)}")
        data = (head.replace("face 4", f"face {len(mesh.faces)}") + faces).encode()
        most = 8 * len(data)
    read_bytes(data, f"a.{suffix}")
    tracemalloc.start()
    read_bytes(data, f"a.{suffix}")
    _, peak = tracemalloc.get_traced_memory()
    tracemalloc.stop()
    assert peak < most
