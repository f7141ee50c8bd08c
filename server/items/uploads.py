"""Files as they come in: kept by their content, and what they are called."""

import zipfile
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from tempfile import TemporaryFile

from caulkcore.io.files import MESH_READERS, READERS, suffix_of
from django.core.files import File
from orders.models import LONGEST_FILE_NAME, LONGEST_NAME
from work.blobs import keep

_CHUNK = 1 << 20


@dataclass(frozen=True)
class Received:
    """A file that is kept: its name, where, and its bytes."""

    file_name: str
    path: str
    size: int


def received(file: File) -> Received:
    """Keep the file of an upload.

    Raises
    ------
    RefusedInput
        If the format is none that is read.
    """
    name = _kept_name(Path(file.name or "").name)
    return Received(name, keep(file, suffix_of(name, READERS)), file.size)


def received_together(files: Sequence[File], name: str) -> Received:
    """Keep the files of an upload as one archive, byte for byte and in their order.

    Raises
    ------
    RefusedInput
        If the format of one is none that is read.
    """
    names = [Path(file.name or "").name for file in files]
    for one in names:
        suffix_of(one, MESH_READERS)
    with TemporaryFile() as stream:
        with zipfile.ZipFile(stream, "w") as archive:
            for i, (one, file) in enumerate(zip(names, files, strict=True)):
                # of two folders there may be two files of one name
                inside = one if names.count(one) == 1 else f"{i + 1}/{one}"
                about = zipfile.ZipInfo(inside)
                with archive.open(about, "w", force_zip64=True) as entry:
                    for chunk in file.chunks(_CHUNK):
                        entry.write(chunk)
        size = stream.tell()
        return Received(_kept_name(f"{name}.zip"), keep(stream, ".zip"), size)


def spoken(file_name: str) -> str:
    """What an item is called by its file's name."""
    words = Path(file_name).stem.replace("_", " ").replace("-", " ").split()
    return " ".join(words).capitalize()[:LONGEST_NAME].strip() or "Unnamed"


def spoken_together(files: Sequence[File]) -> str:
    """What an item of several files is called: after the first of them."""
    more = f" and {len(files) - 1} more"
    return spoken(Path(files[0].name or "").name)[: LONGEST_NAME - len(more)].strip() + more


def _kept_name(file_name: str) -> str:
    """A file's name as it is kept: the end of one that is longer than the table takes."""
    return file_name[-LONGEST_FILE_NAME:]
