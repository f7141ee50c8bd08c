"""ZIP: several mesh files that came together, read as one mesh with each at its own place."""

import io
import zipfile
from collections import Counter
from collections.abc import Sequence
from pathlib import PurePosixPath

from ..errors import RefusedInput
from ..mesh.concatenate import concatenate
from ..mesh.triangle_mesh import Mesh
from ..mesh.weld import welded
from .document import MAX_BYTES, MAX_TRIANGLES, MeshDocument
from .files import MESH_READERS, read_bytes
from .labels import Labels
from .threemf import BROKEN_ZIP
from .units import MILLIMETRES

MAX_FILES = 1000
"""Most files that are read together."""
_NAMED = 5
"""Of the files that are left out so many are named."""


def read(data: bytes) -> MeshDocument:
    """Read all mesh files of a ZIP archive into one mesh.

    Where some of them name their unit, all are brought into the unit that is named first; those
    that name none are taken to be in it.

    Parameters
    ----------
    data : bytes

    Returns
    -------
    MeshDocument
        Each file's faces are labelled with its name, or with the labels that it has itself.

    Raises
    ------
    RefusedInput
        If a file in it cannot be read, there is none, or there is too much.

    Examples
    --------
    >>> off = b"OFF\\n3 1 0\\n0 0 0\\n9 0 0\\n0 9 0\\n3 0 1 2\\n"
    >>> stream = io.BytesIO()
    >>> with zipfile.ZipFile(stream, "w") as archive:
    ...     archive.writestr("lid.off", off)
    ...     archive.writestr("box.off", off)
    >>> document = read(stream.getvalue())
    >>> len(document.mesh.faces), document.labels.names
    (2, ('box', 'lid'))
    """
    members, notes = _members(data)
    documents = []
    for name, content in members:
        try:
            documents.append(read_bytes(content, name))
        except RefusedInput as why:
            raise RefusedInput(f"{name}: {why}") from None
    total = sum(len(one.mesh.faces) for one in documents)
    if total > MAX_TRIANGLES:
        raise RefusedInput(f"The files hold {total:,} triangles; the limit is {MAX_TRIANGLES:,}.")
    unit, called = next(((one.unit, one.unit_name) for one in documents if one.unit), (None, ""))
    meshes = [_in_unit(one, unit) for one in documents]
    unnamed = sum(one.unit is None for one in documents)
    if unit and unnamed:
        notes.append(
            f"{unnamed:,} of {len(documents):,} files name no unit; they are taken to be in "
            f"{called} like the others."
        )
    for (name, _), document in zip(members, documents, strict=True):
        notes += [f"{name}: {note}" for note in document.notes]
    parts = zip(_names([name for name, _ in members]), documents, strict=True)
    labels = Labels.joined([(name, one.labels, len(one.mesh.faces)) for name, one in parts])
    # a vertex is one place in space, whichever files' faces meet there
    whole = welded(concatenate(meshes))
    return MeshDocument(whole, "zip", unit, called, tuple(notes), labels)


def _members(data: bytes) -> tuple[list[tuple[str, bytes]], list[str]]:
    """The mesh files of an archive, names and contents, and what there is to say of the others."""
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            files = [one for one in archive.infolist() if not one.is_dir() and _is_meant(one)]
            meant = [one for one in files if _suffix(one) in MESH_READERS]
            if not meant:
                raise RefusedInput("There is no STL, OBJ, PLY, OFF or 3MF file in the archive.")
            if len(meant) > MAX_FILES:
                raise RefusedInput(f"It holds {len(meant):,} files; the limit is {MAX_FILES:,}.")
            if any(one.flag_bits & 1 for one in meant):
                raise RefusedInput("The archive is locked with a password.")
            size = sum(one.file_size for one in meant)
            if size > MAX_BYTES:
                raise RefusedInput(
                    f"Its files have {size / 1e6:.0f} MB; the limit is {MAX_BYTES / 1e6:.0f} MB."
                )
            contents = [(one.filename, archive.read(one)) for one in meant]
    except BROKEN_ZIP:
        raise RefusedInput("The archive is damaged; pack it again.") from None
    others = [PurePosixPath(one.filename).name for one in files if _suffix(one) not in MESH_READERS]
    if not others:
        return contents, []
    more = f" and {len(others) - _NAMED} more" if len(others) > _NAMED else ""
    return contents, [f"Left out, since they are no meshes: {', '.join(others[:_NAMED])}{more}."]


def _suffix(one: zipfile.ZipInfo) -> str:
    return PurePosixPath(one.filename).suffix.lower()


def _is_meant(one: zipfile.ZipInfo) -> bool:
    """Whether a person put it there, rather than the program that packed it."""
    parts = PurePosixPath(one.filename).parts
    return not any(part.startswith((".", "__MACOSX")) for part in parts)


def _in_unit(document: MeshDocument, unit: str | None) -> Mesh:
    """A document's mesh in some unit; as it is where it names none, or is asked for none."""
    if unit is None or document.unit in (None, unit):
        return document.mesh
    factor = MILLIMETRES[document.unit] / MILLIMETRES[unit]
    return Mesh(document.mesh.vertices * factor, document.mesh.faces)


def _names(files: Sequence[str]) -> list[str]:
    """What to call the files: by their names, and by the way to them where those are the same."""
    stems = [PurePosixPath(name).stem for name in files]
    often = Counter(stems)
    return [
        stem if often[stem] == 1 else str(PurePosixPath(name).with_suffix(""))
        for stem, name in zip(stems, files, strict=True)
    ]
