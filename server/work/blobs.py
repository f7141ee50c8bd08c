"""Files kept by their content: written once, never overwritten, through Django's storage."""

import hashlib
import shutil
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from tempfile import NamedTemporaryFile
from typing import IO

from django.conf import settings
from django.core.files import File
from django.core.files.storage import default_storage

_CHUNK = 1 << 20


def keep(stream: IO[bytes], suffix: str) -> str:
    """Store a stream under the hash of its content; returns its path in the storage."""
    stream.seek(0)
    digest = hashlib.sha256()
    while chunk := stream.read(_CHUNK):
        digest.update(chunk)
    name = digest.hexdigest()
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
    """A stored file as a file on this machine's disk, for a child process to read."""
    try:
        local = Path(default_storage.path(path))
    except NotImplementedError:
        with NamedTemporaryFile(dir=settings.DATA, suffix=Path(path).suffix) as copy:
            with default_storage.open(path) as stream:
                shutil.copyfileobj(stream, copy, _CHUNK)
            copy.flush()
            yield Path(copy.name)
    else:
        yield local
