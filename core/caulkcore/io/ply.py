"""PLY: ASCII and binary of both byte orders, polygons, any further properties left alone."""

from dataclasses import dataclass
from typing import IO

import numpy as np

from ..errors import RefusedInput
from ..mesh.arrays import Array
from ..mesh.triangle_mesh import Mesh
from . import _text_kernels as scan
from ._list_kernels import walk_lists
from .document import MAX_TRIANGLES, MeshDocument, left_out, polygon_document
from .stl import read_again

_TYPES = {
    "char": "i1", "uchar": "u1", "short": "i2", "ushort": "u2", "int": "i4", "uint": "u4",
    "float": "f4", "double": "f8", "int8": "i1", "uint8": "u1", "int16": "i2", "uint16": "u2",
    "int32": "i4", "uint32": "u4", "float32": "f4", "float64": "f8",
}  # fmt: skip
"""NumPy's names for the types of the format."""
_ORDERS = {"binary_little_endian": "<", "binary_big_endian": ">", "ascii": ""}
"""Byte order of each form, as NumPy writes it; none for text."""
_SELDOM = 32
"""Of so many numbers one, at most, is expected to need a second reading; else all are scanned
twice."""
_COLOURS = {"red", "green", "blue", "diffuse_red", "r", "g", "b"}
"""Properties that colour a vertex or a face."""
_TEXTURES = {"texcoord", "texnumber", "u", "v", "s", "t", "texture_u", "texture_v"}
"""Properties that lay a picture on it."""
_INDEX_NAMES = ("vertex_indices", "vertex_index")
"""What files call a face's list of vertices."""


@dataclass(frozen=True)
class _Property:
    name: str
    type: str
    count_type: str = ""


@dataclass(frozen=True)
class _Element:
    name: str
    count: int
    properties: tuple[_Property, ...]

    def index_of(self, name: str) -> int:
        for i, one in enumerate(self.properties):
            if one.name == name:
                return i
        raise RefusedInput(f"The file's “{self.name}” has no property “{name}”.")

    def index_list(self) -> int:
        for i, one in enumerate(self.properties):
            if one.name in _INDEX_NAMES and one.count_type:
                return i
        raise RefusedInput("The file's faces have no list of vertices.")


def read(data: bytes) -> MeshDocument:
    r"""Read a PLY file.

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
        If the header is not one, the data end before it says, or a vertex is not there.

    Examples
    --------
    >>> head = b"ply\nformat ascii 1.0\nelement vertex 3\n"
    >>> head += b"property float x\nproperty float y\nproperty float z\n"
    >>> head += b"element face 1\nproperty list uchar int vertex_indices\nend_header\n"
    >>> read(head + b"0 0 0\n9 0 0\n0 9 0\n3 0 1 2\n").mesh.area
    40.5
    """
    order, elements, start, notes = _header(data)
    byname = {e.name: e for e in elements}
    if "vertex" not in byname or "face" not in byname or not byname["face"].count:
        raise RefusedInput("The file holds no faces.")
    if len(byname) < len(elements):
        raise RefusedInput("The PLY header says of one thing twice what it is.")
    byname["face"].index_list()
    for axis in "xyz":
        byname["vertex"].index_of(axis)
    if any(p.count_type for p in byname["vertex"].properties):
        raise RefusedInput("The file's vertices carry lists; it must be saved without them.")
    if byname["face"].count > MAX_TRIANGLES:
        raise RefusedInput(
            f"The file holds {byname['face'].count:,} faces; the limit is {MAX_TRIANGLES:,}."
        )
    if sum(e.count for e in elements) > len(data):
        raise RefusedInput("The file is cut off: its header says more than it can hold.")
    take = _ascii if order == "" else _binary
    vertices, starts, corners = take(data, start, order, elements)
    if len(corners) and not (corners.min() >= 0 and corners.max() < len(vertices)):
        raise RefusedInput(f"A face names a vertex that is not among the {len(vertices):,}.")
    if (np.diff(starts) < 3).any():
        raise RefusedInput("A face has fewer than three corners.")
    properties = {p.name.lower() for e in elements for p in e.properties}
    lost = [
        w for w, names in (("colours", _COLOURS), ("textures", _TEXTURES)) if properties & names
    ]
    if lost:
        notes.append(left_out(lost))
    form = "ply-binary" if order else "ply-ascii"
    return polygon_document(vertices, starts, corners, form, notes=notes)


def _header(data: bytes) -> tuple[str, list[_Element], int, list[str]]:
    if data[:3] != b"ply" or data[3:4] not in (b"\n", b"\r"):
        raise RefusedInput("This is not a PLY file: it does not begin with “ply”.")
    end = data.find(b"end_header")
    if end < 0 or end > 100_000:
        raise RefusedInput("The PLY header has no end; the file was cut off.")
    start = data.index(b"\n", end) + 1 if b"\n" in data[end : end + 20] else end + 11
    order = None
    elements: list[tuple[str, int, list[_Property]]] = []
    notes: list[str] = []
    for line in data[:end].decode("latin-1").split("\n")[1:]:
        words = line.split()
        if not words or words[0] in ("comment", "obj_info"):
            continue
        try:
            if words[0] == "format":
                order = _ORDERS[words[1]]
            elif words[0] == "element":
                elements.append((words[1], int(words[2]), []))
                if elements[-1][1] < 0:
                    raise ValueError
            elif words[0] == "property" and words[1] == "list":
                kind = _Property(words[4], _TYPES[words[3]], _TYPES[words[2]])
                elements[-1][2].append(kind)
            elif words[0] == "property":
                elements[-1][2].append(_Property(words[2], _TYPES[words[1]]))
            else:
                told = line.strip()[:60]
                notes.append(f"The header says “{told}”, which means nothing in PLY.")
        except (LookupError, ValueError):
            raise RefusedInput(f"The PLY header says “{line.strip()[:60]}”.") from None
    if order is None:
        raise RefusedInput("The PLY header does not say its format.")
    return order, [_Element(n, c, tuple(p)) for n, c, p in elements], start, notes


def _cut_off() -> RefusedInput:
    return RefusedInput("The file is cut off: the data end before the header says.")


def _binary(
    data: bytes, start: int, order: str, elements: list[_Element]
) -> tuple[Array, Array, Array]:
    buffer = np.frombuffer(data, dtype=np.uint8)
    vertices = starts = corners = None
    for element in elements:
        if not any(p.count_type for p in element.properties):
            fields = [(f"{i}", order + p.type) for i, p in enumerate(element.properties)]
            layout = np.dtype(fields)
            size = layout.itemsize * element.count
            if start + size > len(data):
                raise _cut_off()
            if element.name == "vertex":
                table = np.frombuffer(data, layout, element.count, start)
                axes = [table[str(element.index_of(a))] for a in "xyz"]
                vertices = np.stack(axes, axis=1).astype(np.float64)
            start += size
            continue
        wanted = element.index_list() if element.name == "face" else 0
        offsets, counts, start = _walk(buffer, start, order, element, wanted)
        if element.name == "face":
            starts, corners = _gather(buffer, offsets, counts, order, element.properties[wanted])
    assert vertices is not None
    assert starts is not None
    assert corners is not None
    return vertices, starts, corners


def _walk(
    buffer: Array, start: int, order: str, element: _Element, wanted: int
) -> tuple[Array, Array, int]:
    sizes = np.array([np.dtype(p.type).itemsize for p in element.properties])
    count_sizes = np.array(
        [np.dtype(p.count_type).itemsize if p.count_type else 0 for p in element.properties]
    )
    offsets, counts, end = walk_lists(
        buffer, start, element.count, sizes, count_sizes, wanted, order == ">"
    )
    if end < 0:
        raise _cut_off()
    return offsets, counts, end


def _gather(
    buffer: Array, offsets: Array, counts: Array, order: str, kind: _Property
) -> tuple[Array, Array]:
    starts = np.concatenate([[0], np.cumsum(counts)])
    corners = np.empty(starts[-1], dtype=np.int64)
    width = np.dtype(kind.type).itemsize
    for n in np.unique(counts):
        which = np.flatnonzero(counts == n)
        spots = offsets[which][:, None] + np.arange(n * width)
        values = buffer[spots].view(order + kind.type).reshape(len(which), n)
        corners[starts[which][:, None] + np.arange(n)] = values
    return starts, corners


def _ascii(
    data: bytes, start: int, order: str, elements: list[_Element]
) -> tuple[Array, Array, Array]:
    buffer = np.frombuffer(data, dtype=np.uint8)
    numbers = np.empty(scan.count_words(buffer, start))
    again = np.empty((len(numbers) // _SELDOM + 1, 3), dtype=np.int64)
    n, used, problem, where = scan.scan_numbers(buffer, start, numbers, again)
    if used > len(again):
        again = np.empty((used, 3), dtype=np.int64)
        n, used, problem, where = scan.scan_numbers(buffer, start, numbers, again)
    if problem != scan.FINE:
        line = data.count(b"\n", 0, where) + 1
        raise RefusedInput(f"There is something other than a number at line {line:,}.")
    read_again(data, numbers, again[:used])
    numbers = numbers[:n]
    at = 0
    vertices = starts = corners = None
    for element in elements:
        width = len(element.properties)
        if not any(p.count_type for p in element.properties):
            if at + element.count * width > n:
                raise _cut_off()
            if element.name == "vertex":
                table = numbers[at : at + element.count * width].reshape(-1, width)
                vertices = table[:, [element.index_of(a) for a in "xyz"]].copy()
            at += element.count * width
            continue
        wanted = element.index_list() if element.name == "face" else 0
        is_list = np.array([bool(p.count_type) for p in element.properties])
        offsets, counts, at = scan.walk_numbers(numbers, at, element.count, is_list, wanted)
        if at < 0:
            raise _cut_off()
        if element.name == "face":
            starts = np.concatenate([[0], np.cumsum(counts)])
            spots = np.repeat(offsets - starts[:-1], counts) + np.arange(starts[-1])
            corners = np.nan_to_num(numbers[spots], nan=-1, posinf=-1, neginf=-1).astype(np.int64)
    assert vertices is not None
    assert starts is not None
    assert corners is not None
    return vertices, starts, corners


def write(mesh: Mesh, stream: IO[bytes], name: str = "part") -> None:
    """Write a binary little-endian PLY; coordinates are rounded to float32.

    Parameters
    ----------
    mesh : Mesh
        In millimetres.
    stream : binary file
    name : str
        Goes into a comment.
    """
    safe = "".join(c if c.isprintable() else " " for c in name)
    header = (
        f"ply\nformat binary_little_endian 1.0\ncomment millimetres, {safe}\n"
        f"element vertex {len(mesh.vertices)}\nproperty float x\nproperty float y\n"
        f"property float z\nelement face {len(mesh.faces)}\n"
        "property list uchar int vertex_indices\nend_header\n"
    )
    stream.write(header.encode("ascii", "replace"))
    stream.write(mesh.vertices.astype("<f4").tobytes())
    records = np.empty(len(mesh.faces), dtype=[("n", "u1"), ("v", "<i4", 3)])
    records["n"], records["v"] = 3, mesh.faces
    stream.write(records.tobytes())
