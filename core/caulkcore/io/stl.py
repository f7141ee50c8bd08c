"""STL, binary and ASCII."""

from typing import IO

import numpy as np

from ..errors import RefusedInput
from ..mesh.arrays import Array
from ..mesh.triangle_mesh import Mesh, face_normals
from . import _text_kernels as scan
from .document import MeshDocument, make_document

_RECORD = np.dtype([("normal", "<f4", 3), ("corners", "<f4", (3, 3)), ("attribute", "<u2")])
"""One triangle of a binary STL, `STL_FACE` bytes."""
STL_HEAD, STL_FACE = 84, 50
"""Bytes of a binary STL's head, and of each of its triangles."""


def stl_bytes(triangles: int) -> int:
    """Size of a binary STL.

    Parameters
    ----------
    triangles : int

    Returns
    -------
    int
        Bytes.

    Examples
    --------
    >>> stl_bytes(12)
    684
    """
    return STL_HEAD + STL_FACE * triangles


def read(data: bytes) -> MeshDocument:
    """Read an STL file.

    A file is binary when its length agrees with its count, whatever its header begins with.

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
        If the file is cut off, holds no triangles, or is no STL.
    """
    if len(data) >= STL_HEAD and len(data) == STL_HEAD + STL_FACE * _count(data):
        return _read_binary(data, _count(data), [])
    head = data[:1024].lstrip(b"\xef\xbb\xbf \t\r\n").lower()
    if head.startswith(b"solid") and b"\0" not in data[:1024] and _looks_like_text(data):
        return _read_ascii(data)
    if _looks_like_text(data):
        raise RefusedInput("This is not an STL file: it is text without a “solid” line.")
    return _read_odd_binary(data)


def _count(data: bytes) -> int:
    return int.from_bytes(data[80:84], "little")


def _looks_like_text(data: bytes) -> bool:
    sample = np.frombuffer(data[:4096], dtype=np.uint8)
    control = (sample < 9) | ((sample > 13) & (sample < 32))
    return not control.any()


def _read_odd_binary(data: bytes) -> MeshDocument:
    if len(data) < STL_HEAD:
        raise RefusedInput(f"The file is cut off: {len(data)} bytes are less than an STL's header.")
    said, held = _count(data), (len(data) - STL_HEAD) // STL_FACE
    if said > held:
        raise RefusedInput(
            f"The file is cut off or its count is wrong: it says {said:,} triangles and holds "
            f"{held:,}. Ask for it again."
        )
    spare = len(data) - STL_HEAD - 50 * said
    if spare % 50 == 0:
        return _read_binary(
            data, held, [f"The file says {said:,} triangles and holds {held:,}; all were read."]
        )
    if said == 0:
        raise RefusedInput(
            "The file says that it holds no triangles, and its length fits no count."
        )
    return _read_binary(data, said, [f"{spare:,} bytes after the last triangle were left unread."])


def _read_binary(data: bytes, count: int, notes: list[str]) -> MeshDocument:
    records = np.frombuffer(data, dtype=_RECORD, count=count, offset=STL_HEAD)
    return make_document(records["corners"].reshape(-1, 3), None, "stl-binary", notes)


def _read_ascii(data: bytes) -> MeshDocument:
    buffer = np.frombuffer(data, dtype=np.uint8)
    most = data.lower().count(b"vertex")
    corners = np.empty((most, 3))
    again = np.empty((most * 3, 3), dtype=np.int64)
    named = np.empty((data.lower().count(b"solid"), 3), dtype=np.int64)
    n, used, solids, closed, problem, where = scan.scan_stl(buffer, corners, again, named)
    line = data.count(b"\n", 0, where) + 1
    if problem == scan.CUT_OFF:
        raise RefusedInput(f"The file is cut off in the middle of a triangle, at line {line:,}.")
    if problem == scan.TOO_FEW_CORNERS:
        raise RefusedInput(f"The facet that ends at line {line:,} does not have three vertices.")
    if problem == scan.BAD_NUMBER:
        word = data[where : where + 20].split(None, 1)[0].decode("ascii", "replace")
        raise RefusedInput(f"“{word}” at line {line:,} is not a number.")
    read_again(data, corners, again[:used])
    notes = []
    if not closed:
        notes.append("The file has no “endsolid” at its end; it may have been cut off.")
    if solids > 1:
        notes.append(f"The file holds {solids} solids; they were read together.")
    labels = _labels(data, named[:solids], n // 3) if solids > 1 else None
    return make_document(corners[:n], None, "stl-ascii", notes, labels=labels)


def _labels(data: bytes, named: Array, triangles: int) -> tuple[list[str], Array]:
    """The solids' names, and that of each triangle; those before any solid have none."""
    names = ["", *(data[a:b].decode("utf-8", "replace") for a, b, _ in named.tolist())]
    begins = named[:, 2] // 3
    return names, np.searchsorted(begins, np.arange(triangles), side="right")


def read_again(data: bytes, values: Array, again: Array) -> None:
    """Have Python read the numbers that the scan left to it, in place.

    Parameters
    ----------
    data : bytes
        Of the file.
    values : ndarray, of any shape
        Numbers as scanned; those in `again` are replaced.
    again : ndarray, shape (k, 3), int64
        Position among the values of each number that needs Python's own reading, and where it
        begins and ends in the data.
    """
    flat = values.reshape(-1)
    for index, start, end in again:
        flat[index] = float(data[start:end].lower().replace(b",", b".").replace(b"d", b"e"))


def write(mesh: Mesh, stream: IO[bytes], name: str = "part") -> None:
    """Write a binary STL; coordinates are rounded to float32.

    Parameters
    ----------
    mesh : Mesh
        In millimetres.
    stream : binary file
    name : str
        Goes into the header.
    """
    records = np.zeros(len(mesh.faces), dtype=_RECORD)
    records["normal"] = face_normals(mesh.vertices, mesh.faces)
    records["corners"] = mesh.vertices[mesh.faces]
    header = f"binary STL, millimetres, {name}".encode("ascii", "replace")[:80]
    stream.write(header.ljust(80, b" "))
    stream.write(len(records).to_bytes(4, "little"))
    stream.write(records.tobytes())
