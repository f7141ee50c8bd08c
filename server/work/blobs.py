"""Files kept by their content: written once, never overwritten, through Django's storage."""

import hashlib
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path, PurePosixPath
from tempfile import NamedTemporaryFile
from typing import IO

from django.conf import settings
from django.core.files import File
from django.core.files.storage import default_storage

_CHUNK = 1 << 20


class Damaged(Exception):
    """A stored file does not hold what was stored under its name."""


def keep(stream: IO[bytes], suffix: str) -> str:
    """Store a stream under the hash of its content; returns its path in the storage."""
    stream.seek(0)
    name = _hash_of(stream)
    path = f"{name[:2]}/{name}{suffix}"
    if not default_storage.exists(path):
        stream.seek(0)
        saved = default_storage.save(path, File(stream))
        if saved != path:
            # somebody stored the same content at the same moment
            default_storage.delete(saved)
    return path


def keep_file(path: Path, suffix: str) -> str:
    """Store a file of the disk."""
    with path.open("rb") as stream:
        return keep(stream, suffix)


@contextmanager
def on_disk(path: str) -> Iterator[Path]:
    """A stored file as a file on this machine's disk, for a child process to read.

    Raises
    ------
    Damaged
        If it does not hold what its name says.
    """
    try:
        local = Path(default_storage.path(path))
    except NotImplementedError:
        with NamedTemporaryFile(dir=settings.DATA, suffix=PurePosixPath(path).suffix) as copy:
            with default_storage.open(path) as stream:
                while chunk := stream.read(_CHUNK):
                    copy.write(chunk)
            copy.flush()
            _check(Path(copy.name), path)
            yield Path(copy.name)
    else:
        _check(local, path)
        yield local


def _check(file: Path, path: str) -> None:
    with file.open("rb") as stream:
        if _hash_of(stream) != PurePosixPath(path).name.partition(".")[0]:
            raise Damaged(f"The stored file {path} was damaged.")


def _hash_of(stream: IO[bytes]) -> str:
    digest = hashlib.sha256()
    while chunk := stream.read(_CHUNK):
        digest.update(chunk)
    return digest.hexdigest()
