"""OFF: points and polygons in text."""

from typing import IO

import numpy as np

from ..errors import RefusedInput
from ..mesh.triangle_mesh import Mesh
from . import _text_kernels as scan
from .document import MAX_TRIANGLES, MeshDocument, polygon_document
from .stl import read_again


def read(data: bytes) -> MeshDocument:
    r"""Read an OFF file; colours and normals beside the numbers are left alone.

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
        If it is no OFF, is cut off, or names vertices that are not there.

    Examples
    --------
    >>> read(b"OFF\n3 1 0\n0 0 0\n9 0 0\n0 9 0\n3 0 1 2\n").mesh.area
    40.5
    """
    head = data[:200].split(None, 1)
    if not head or not head[0].upper().endswith(b"OFF") or b"BINARY" in data[:200].upper():
        raise RefusedInput("This is not a text OFF file: it does not begin with “OFF”.")
    buffer = np.frombuffer(data, dtype=np.uint8)
    start = data.upper().index(b"OFF") + 3
    counts, start = scan.scan_counts(buffer, start)
    n_vertices, n_faces = int(counts[0]), int(counts[1])
    if min(n_vertices, n_faces) < 0 or max(n_vertices, n_faces) * 4 > len(data):
        raise RefusedInput(
            f"The file says {n_vertices:,} points and {n_faces:,} faces, more than it can hold."
        )
    if n_faces == 0:
        raise RefusedInput(f"The file holds {n_vertices:,} points but no faces.")
    if n_faces > MAX_TRIANGLES:
        raise RefusedInput(f"The file holds {n_faces:,} faces; the limit is {MAX_TRIANGLES:,}.")
    vertices = np.empty((n_vertices, 3))
    starts = np.empty(n_faces + 1, dtype=np.int64)
    corners = np.empty(len(data) // 2 + 1, dtype=np.int64)
    again = np.empty((n_vertices * 3, 3), dtype=np.int64)
    used, problem, where = scan.scan_off(buffer, start, vertices, starts, corners, again)
    line = data.count(b"\n", 0, where) + 1
    if problem == scan.CUT_OFF:
        raise RefusedInput(f"The file is cut off at line {line:,}.")
    if problem == scan.BAD_INDEX:
        raise RefusedInput(
            f"The face at line {line:,} names a vertex that is not among the {n_vertices:,}."
        )
    if problem == scan.TOO_FEW_CORNERS:
        raise RefusedInput(f"The face at line {line:,} has fewer than three corners.")
    if problem != scan.FINE:
        raise RefusedInput(f"There is something other than a number at line {line:,}.")
    read_again(data, vertices, again[:used])
    return polygon_document(vertices, starts, corners[: starts[-1]], "off")


def write(mesh: Mesh, stream: IO[bytes], name: str = "part") -> None:
    """Write an OFF; coordinates keep their full double precision.

    Parameters
    ----------
    mesh : Mesh
        In millimetres.
    stream : binary file
    name : str
        Not used; the format has no place for it.
    """
    lines = [f"OFF\n{len(mesh.vertices)} {len(mesh.faces)} 0"]
    lines += [f"{x!r} {y!r} {z!r}" for x, y, z in mesh.vertices.tolist()]
    lines += [f"3 {a} {b} {c}" for a, b, c in mesh.faces.tolist()]
    stream.write("\n".join(lines).encode() + b"\n")
