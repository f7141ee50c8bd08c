"""OBJ: vertices, polygons, and the names of objects and groups; the rest is left alone."""

import codecs
import re
from collections.abc import Sequence
from typing import IO

import numpy as np

from ..errors import RefusedInput
from ..mesh.arrays import Array
from ..mesh.triangle_mesh import Mesh
from . import _text_kernels as scan
from .document import MeshDocument, left_out, polygon_document
from .labels import NamedFaces
from .stl import read_again

_NAMED = re.compile(rb"^[ \t]*([og])(?:[ \t]+([^\r\n]*))?\r?$", re.MULTILINE)
"""Lines that begin an object or a group, with its name."""
_VERTEX = re.compile(rb"^[ \t]*v[ \t]([^\r\n]*)", re.MULTILINE)
"""A line of a vertex."""
_COLOURED = 6
"""Numbers of a vertex that has a colour, at least: place, and red, green and blue."""
_MOST_NAMES = 10_000
"""Groups that are told apart; files with more name every face."""


def read(data: bytes) -> MeshDocument:
    r"""Read an OBJ file.

    Parameters
    ----------
    data : bytes
        Of the file.

    Returns
    -------
    MeshDocument

    Raises
    ------
    RefusedInput
        If it holds no faces, an index without a vertex, or words where numbers belong.

    Examples
    --------
    >>> read(b"v 0 0 0\nv 9 0 0\nv 0 9 0\nf 1 2 3\n").mesh.area
    40.5
    """
    data = _plain(data)
    if b"\\" in data:
        data = data.replace(b"\\\r\n", b" ").replace(b"\\\n", b" ")
    buffer = np.frombuffer(data, dtype=np.uint8)
    n_vertices, n_faces, n_corners = scan.count_obj(buffer)
    if n_faces == 0:
        if n_vertices == 0:
            raise RefusedInput("This is not an OBJ file with a mesh: no vertex and no face in it.")
        raise RefusedInput(f"The file holds {n_vertices:,} points but no faces.")
    vertices = np.empty((n_vertices, 3))
    starts = np.empty(n_faces + 1, dtype=np.int64)
    corners = np.empty(n_corners, dtype=np.int64)
    again = np.empty((n_vertices * 3, 3), dtype=np.int64)
    face_at = np.empty(n_faces, dtype=np.int64)
    used, problem, where, wrong = scan.scan_obj(buffer, vertices, starts, corners, face_at, again)
    if problem != scan.FINE:
        line = data.count(b"\n", 0, where) + 1
        if problem == scan.BAD_INDEX:
            raise RefusedInput(
                f"The face at line {line:,} names vertex {wrong}; there are {n_vertices:,}."
            )
        if problem == scan.TOO_FEW_CORNERS:
            raise RefusedInput(f"The face at line {line:,} has fewer than three corners.")
        word = (data[where : where + 20].split() or [b"(end)"])[0].decode("ascii", "replace")
        raise RefusedInput(f"“{word}” at line {line:,} is not a number.")
    read_again(data, vertices, again[:used])
    lost = _lost(data)
    notes = [left_out(lost)] if lost else []
    labels = _labels(data, face_at)
    return polygon_document(vertices, starts, corners, "obj", labels, notes=notes)


def _lost(data: bytes) -> list[str]:
    """What the file tells that a mesh does not carry; the first vertex speaks for all."""
    vertex = _VERTEX.search(data)
    found = (
        ("colours", vertex is not None and len(vertex[1].split()) >= _COLOURED),
        ("textures", b"\nvt " in data),
        ("materials", b"usemtl " in data),
    )
    return [what for what, is_there in found if is_there]


def _plain(data: bytes) -> bytes:
    """The text without a byte order mark, as UTF-8."""
    if data[:2] in (codecs.BOM_UTF16_LE, codecs.BOM_UTF16_BE):
        return data.decode("utf-16", "replace").encode()
    return data.removeprefix(codecs.BOM_UTF8)


def _labels(data: bytes, face_at: Array) -> tuple[list[str], Array] | None:
    """Names, and the one of each face: the object's, with the group's after it."""
    names, begins = [""], [0]
    named = ""
    for line in _NAMED.finditer(data):
        words = (line[2] or b"").decode("utf-8", "replace").strip()
        if line[1] == b"o":
            named = words
            names.append(words)
        else:
            names.append(f"{named}, {words}" if named and words else named or words)
        begins.append(line.start())
        if len(names) > _MOST_NAMES:
            return None
    of_face = np.searchsorted(np.array(begins), face_at, side="right") - 1
    return names, of_face


def write(
    mesh: Mesh, stream: IO[bytes], name: str = "part", *, objects: Sequence[NamedFaces] = ()
) -> None:
    """Write an OBJ; coordinates keep their full double precision.

    Parameters
    ----------
    mesh : Mesh
        In millimetres.
    stream : binary file
    name : str
        Written as the object's name.
    objects : sequence of NamedFaces, optional
        Written as objects of their own instead.
    """
    lines = ["# millimetres"]
    lines += [f"v {x!r} {y!r} {z!r}" for x, y, z in mesh.vertices.tolist()]
    for one in objects or (NamedFaces(name, np.arange(len(mesh.faces))),):
        safe = "".join(c if c.isalnum() or c in "-_." else "_" for c in one.name)
        lines.append(f"o {safe}")
        lines += [f"f {a} {b} {c}" for a, b, c in (mesh.faces[one.faces] + 1).tolist()]
    stream.write("\n".join(lines).encode() + b"\n")
