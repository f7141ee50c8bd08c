"""Meshes and files that many tests need."""

import functools
import sys
from collections.abc import Callable
from pathlib import Path

import igl
import manifold3d
import numpy as np
import trimesh
from caulkcore import Mesh
from caulkcore.io import stl
from harbour import breakers, shapes


def python_calls(action: Callable[[], object]) -> int:
    """How many functions Python enters: work that no machine's speed changes."""
    count = 0

    def on_event(_frame: object, event: str, _argument: object) -> None:
        nonlocal count
        count += event in ("call", "c_call")

    before = sys.getprofile()
    sys.setprofile(on_event)
    try:
        action()
    finally:
        sys.setprofile(before)
    return count


def box(
    size: float | tuple[float, float, float] = 10.0, at: tuple[float, float, float] = (0, 0, 0)
) -> Mesh:
    solid = trimesh.creation.box(np.broadcast_to(size, 3))
    return Mesh(solid.vertices + np.array(at), solid.faces)


def sphere(radius: float = 20.0, subdivisions: int = 3) -> Mesh:
    solid = trimesh.creation.icosphere(subdivisions=subdivisions, radius=radius)
    return Mesh(solid.vertices, solid.faces)


def torus() -> Mesh:
    solid = trimesh.creation.torus(20, 6, major_sections=48, minor_sections=24)
    return Mesh(solid.vertices, solid.faces)


def cone() -> Mesh:
    solid = trimesh.creation.cone(8, 20, sections=40)
    return Mesh(solid.vertices, solid.faces)


def tube() -> Mesh:
    return shapes.as_mesh(shapes.tube(10, 8, 25))


def hollow_box() -> Mesh:
    inner = box(4)
    return breakers.soup(box(), Mesh(inner.vertices, inner.faces[:, ::-1]))


SOUND: dict[str, Callable[[], Mesh]] = {
    "box": box,
    "sphere": sphere,
    "torus": torus,
    "cone": cone,
    "tube": tube,
    "hollow box": hollow_box,
    "valve wheel": lambda: shapes.as_mesh(shapes.valve_wheel()),
    "pump body": lambda: shapes.as_mesh(shapes.pump_body()),
    "lantern housing": lambda: shapes.as_mesh(shapes.lantern_housing()),
    "bell frame": lambda: shapes.as_mesh(shapes.bell_frame()),
    "half hull": lambda: shapes.as_mesh(shapes.half_hull()),
    "gauge lid": lambda: shapes.as_mesh(shapes.gauge_lid()),
}


@functools.cache
def sound(name: str) -> Mesh:
    return SOUND[name]()


def referee(mesh: Mesh) -> trimesh.Trimesh:
    """The mesh as trimesh sees it, untouched."""
    return trimesh.Trimesh(mesh.vertices, mesh.faces, process=False)


def manifold_of(mesh: Mesh) -> manifold3d.Manifold:
    """The same solid as another library has it."""
    vertices, faces = np.array(mesh.vertices), np.array(mesh.faces, dtype=np.uint64)
    return manifold3d.Manifold(manifold3d.Mesh64(vertices, faces))


def assert_tight_by_referees(mesh: Mesh, volume: float | None = None, share: float = 1e-3) -> None:
    """Watertight, consistent and manifold by libraries that are not ours, also after float32."""
    delivered = np.asarray(mesh.vertices, dtype=np.float32).astype(np.float64)
    by_coordinates = breakers.soup(Mesh(delivered, mesh.faces))
    judged = referee(by_coordinates)
    assert judged.is_watertight
    assert judged.is_winding_consistent
    assert igl.is_edge_manifold(by_coordinates.faces.astype(np.int64))[0]
    for piece in judged.split(only_watertight=False):  # pieces may touch in a vertex
        assert bool(np.all(igl.is_vertex_manifold(piece.faces.astype(np.int64))))
    if volume is not None:
        assert judged.volume > 0
        assert abs(judged.volume - volume) <= share * abs(volume)


def unpacked(skin: bytes) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Points, faces and the shells' beginnings of a mesh packed for the screen, the slow way."""
    assert skin[:4] == b"IKSK"
    version, vertices, faces, shells, size = np.frombuffer(skin, "<u4", 5, 4).tolist()
    assert version == 2
    middle, low, step = np.frombuffer(skin, "<f8", 9, 24).reshape(3, 3)
    a, b = np.frombuffer(skin, "<u4", vertices * 2, 96).reshape(-1, 2).T.astype(np.uint64)
    whole = a | b << np.uint64(32)
    x, y = whole & np.uint64(0x1FFFFF), whole >> np.uint64(32) & np.uint64(0x1FFFFF)
    z = (a >> np.uint64(21)) | (b >> np.uint64(21)) << np.uint64(11)
    points = middle + low + step * np.stack([x, y, z], axis=1).astype(float)
    at = 96 + 8 * vertices
    starts = np.frombuffer(skin, "<u4", shells + 1, at)
    data = iter(skin[at + 4 * (shells + 1) :])
    corners, fresh = [], 0
    for _ in range(3 * faces):
        back, shift, byte = 0, 0, 128
        while byte >= 128:
            byte = next(data)
            back |= (byte & 127) << shift
            shift += 7
        corners.append(fresh - back)
        fresh += back == 0
    assert next(data, None) is None
    assert len(skin) == at + 4 * (shells + 1) + size
    return points, np.array(corners).reshape(-1, 3), starts


def binary_stl(mesh: Mesh) -> bytes:
    import io

    out = io.BytesIO()
    stl.write(mesh, out)
    return out.getvalue()


def ascii_stl(mesh: Mesh, name: str = "part") -> bytes:
    lines = [f"solid {name}"]
    for corners in mesh.vertices[mesh.faces].tolist():
        lines.append("facet normal 0 0 0\nouter loop")
        lines += [f"vertex {x!r} {y!r} {z!r}" for x, y, z in corners]
        lines.append("endloop\nendfacet")
    return "\n".join([*lines, f"endsolid {name}\n"]).encode()


def hostile_files(folder: Path) -> dict[str, tuple[Path, str]]:
    """Files that nobody can print, each with a word of the line that must be told."""
    good = binary_stl(box())
    text = ascii_stl(box())
    nan = good[:84] + b"\xff" * (50 * 12)
    contents = {
        "empty": ("a.stl", b"", "empty"),
        "truncated": ("b.stl", good[:400], "cut off"),
        "lying count": ("c.stl", good[:80] + b"\xff\xff\xff\x7f" + good[84:], "count is wrong"),
        "all NaN": ("d.stl", nan, "not numbers"),
        "no faces": ("e.obj", b"v 0 0 0\nv 1 0 0\nv 0 1 0\n", "no faces"),
        "text": ("f.stl", b"Dear printer,\nplease find our part.\n" * 20, "not an STL"),
        "cut ASCII": ("g.stl", text[: len(text) // 2 + 40], "cut off"),
        "wrong index": ("h.obj", b"v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 9\n", "names vertex 9"),
        "not a number": ("i.stl", text.replace(b"-5.0", b"five", 1), "not a number"),
        "no mesh": ("j.obj", b"\x00\x01\x02 nothing here", "not an OBJ"),
        "one point": ("k.stl", binary_stl(Mesh(np.ones((3, 3)), [[0, 1, 2]])), "coincide"),
        "header only": ("l.stl", bytes(40), "cut off"),
    }
    made = {}
    for what, (name, data, word) in contents.items():
        path = folder / name
        path.write_bytes(data)
        made[what] = (path, word)
    return made


def random_mesh(kind: int, rng: np.random.Generator) -> Mesh:
    """Meshes in which much crosses, touches, folds and coincides."""
    if kind == 0:
        part = sphere(15, 2)
        mesh = breakers.soup(
            sphere(20, 2), Mesh(part.vertices + rng.normal(size=3) * 10, part.faces)
        )
    elif kind == 1:
        mesh = Mesh(rng.normal(size=(40, 3)), _picks(rng, 40))
    elif kind == 2:
        mesh = Mesh(rng.integers(0, 4, size=(64, 3)).astype(float), _picks(rng, 64))
    elif kind == 3:
        ball = sphere(20, 3)
        mesh = Mesh(ball.vertices + rng.normal(size=ball.vertices.shape) * 1.2, ball.faces)
    elif kind == 4:
        mesh = breakers.soup(box(), box(10, tuple(rng.integers(0, 11, 3).astype(float))))
    else:
        points = sphere(20, 2).vertices.copy()
        points = np.round((points + rng.normal(size=points.shape) * 3) / 5) * 5
        mesh = Mesh(points, sphere(20, 2).faces)
    mesh = breakers.soup(mesh)
    sides = mesh.vertices[mesh.faces[:, 1:]] - mesh.vertices[mesh.faces[:, :1]]
    faces = mesh.faces[np.linalg.norm(np.cross(sides[:, 0], sides[:, 1]), axis=1) > 1e-9]
    _, first = np.unique(np.sort(faces, axis=1), axis=0, return_index=True)
    return Mesh(mesh.vertices, faces[np.sort(first)])


def _picks(rng: np.random.Generator, n: int) -> np.ndarray:
    return np.array([rng.choice(n, 3, replace=False) for _ in range(60)])
