"""Open mesh formats: one module each, and `read` and `write` over them; ZIP holds several files.

A format module has ``read(data) -> MeshDocument`` and ``write(mesh, stream, name)``; those that can
tell objects of a mesh apart take them as well.
"""

import os
import secrets
from collections.abc import Collection, Sequence
from importlib import import_module
from pathlib import Path
from types import ModuleType

from ..errors import RefusedInput
from ..mesh.triangle_mesh import Mesh
from .document import MAX_BYTES, MeshDocument
from .labels import NamedFaces

MESH_READERS = {".stl": "stl", ".obj": "obj", ".ply": "ply", ".off": "off", ".3mf": "threemf"}
"""The module that reads each suffix of a mesh file, loaded when a file of its kind comes."""
READERS = {**MESH_READERS, ".zip": "bundle"}
"""The same with the archive of several such files."""
WRITERS = {".stl": "stl", ".obj": "obj", ".ply": "ply", ".3mf": "threemf", ".off": "off"}
"""The module that writes each suffix, in the order in which they are offered."""
_WITH_OBJECTS = {".obj", ".3mf"}
"""Formats that tell objects apart."""


def suffix_of(name: str, known: Collection[str]) -> str:
    """The file name's suffix in lower case.

    Parameters
    ----------
    name : str
        Of the file.
    known : collection of str
        Suffixes that are known.

    Returns
    -------
    str
        Such as ``.stl``.

    Raises
    ------
    RefusedInput
        If it is not among `known`.
    """
    suffix = Path(name).suffix.lower()
    if suffix not in known:
        kinds = ", ".join(k[1:].upper() for k in known)
        shown = f"“{suffix}”" if suffix else "without a suffix"
        raise RefusedInput(f"A file {shown} is not read here; send {kinds}.")
    return suffix


def _format(module: str) -> ModuleType:
    return import_module(f".{module}", __package__)


def read_bytes(data: bytes, name: str) -> MeshDocument:
    r"""Read a mesh from a file's bytes; its name tells the format.

    Parameters
    ----------
    data : bytes
    name : str
        Of the file.

    Returns
    -------
    MeshDocument

    Raises
    ------
    RefusedInput
        If it cannot be read, with the reason in one sentence.

    Examples
    --------
    >>> read_bytes(b"OFF\n3 1 0\n0 0 0\n9 0 0\n0 9 0\n3 0 1 2\n", "corner.off").format
    'off'
    """
    form = _format(READERS[suffix_of(name, READERS)])
    if not data:
        raise RefusedInput("The file is empty (0 bytes).")
    if len(data) > MAX_BYTES:
        raise RefusedInput(
            f"The file has {len(data) / 1e6:.0f} MB; the limit is {MAX_BYTES / 1e6:.0f} MB."
        )
    document: MeshDocument = form.read(data)
    return document


def read(path: str | os.PathLike[str]) -> MeshDocument:
    """Read a mesh file.

    Parameters
    ----------
    path : path
        A file whose suffix is among `READERS`.

    Returns
    -------
    MeshDocument

    Raises
    ------
    RefusedInput
        If it cannot be read, with the reason in one sentence.
    """
    suffix_of(str(path), READERS)
    try:
        if os.path.getsize(path) > MAX_BYTES:
            raise RefusedInput(f"The file is larger than {MAX_BYTES / 1e6:.0f} MB.")
        data = Path(path).read_bytes()
    except IsADirectoryError:
        raise RefusedInput("This is a folder, not a file.") from None
    except OSError as error:
        raise RefusedInput(f"The file cannot be opened: {error.strerror}.") from None
    return read_bytes(data, str(path))


def write(
    mesh: Mesh,
    path: str | os.PathLike[str],
    name: str = "part",
    *,
    objects: Sequence[NamedFaces] = (),
) -> None:
    """Write a mesh file, whole or not at all; the path's suffix chooses the format.

    Parameters
    ----------
    mesh : Mesh
    path : path
    name : str
        Written into the file where the format has a place for it.
    objects : sequence of NamedFaces, optional
        Named faces, each once; told apart in OBJ and 3MF.

    Raises
    ------
    RefusedInput
        If the suffix is none that is written.
    OSError
        If the file cannot be written.
    """
    suffix = suffix_of(str(path), WRITERS)
    form = _format(WRITERS[suffix])
    path = Path(path)
    # beside it, by the path as given: folders above may be closed to who writes
    temporary = path.with_name(f".{path.name}.{secrets.token_hex(4)}")
    try:
        with temporary.open("xb") as stream:
            if len(objects) > 1 and suffix in _WITH_OBJECTS:
                form.write(mesh, stream, name, objects=objects)
            else:
                form.write(mesh, stream, name)
        os.chmod(temporary, 0o644)
        os.replace(temporary, path)
    except BaseException:
        temporary.unlink(missing_ok=True)
        raise
