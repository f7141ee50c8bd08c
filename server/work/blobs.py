"""Files kept by their content: written once, never overwritten, through Django's storage."""

import hashlib
import os
from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager
from datetime import timedelta
from pathlib import Path, PurePosixPath
from tempfile import NamedTemporaryFile
from typing import IO

from django.conf import settings
from django.core.files import File
from django.core.files.storage import default_storage
from django.db import connection
from django.utils import timezone

_CHUNK = 1 << 20
_COLLECTING = 1_402
"""Key of the database's lock between storing and collecting; any number that no other lock has."""
LEFT_ALONE = timedelta(days=1)
"""How long a blob stays that nothing refers to: what was just stored is entered only then."""


class Damaged(Exception):
    """A stored file does not hold what was stored under its name."""


def keep(stream: IO[bytes], suffix: str) -> str:
    """Store a stream under the hash of its content; returns its path in the storage."""
    stream.seek(0)
    name = _hash_of(stream)
    path = f"{name[:2]}/{name}{suffix}"
    with _lock(shared=True):
        if default_storage.exists(path) and _renewed(path):
            return path
        stream.seek(0)
        saved = default_storage.save(path, File(stream))
        if saved != path:
            # somebody stored the same content at the same moment
            default_storage.delete(saved)
    return path


@contextmanager
def _lock(*, shared: bool) -> Iterator[None]:
    """Either many store, or one collects."""
    kind = "_shared" if shared else ""
    with connection.cursor() as cursor:
        cursor.execute(f"select pg_advisory_lock{kind}(%s)", [_COLLECTING])
    try:
        yield
    finally:
        with connection.cursor() as cursor:
            cursor.execute(f"select pg_advisory_unlock{kind}(%s)", [_COLLECTING])


def _renewed(path: str) -> bool:
    """Make a stored blob count as stored now: it is not collected before it is entered.

    Whether that could be done; on storage that is no folder it is stored again, in its place.
    """
    if not _is_old(path):
        return True
    try:
        os.utime(default_storage.path(path))
    except NotImplementedError:
        return False
    return True


@contextmanager
def collecting_waits() -> Iterator[None]:
    """Nothing that is referred to goes meanwhile; for who reads all of it."""
    with _lock(shared=True):
        yield


def _is_old(path: str) -> bool:
    return timezone.now() - default_storage.get_modified_time(path) > LEFT_ALONE


_referrers: list[Callable[[], Iterable[str]]] = []


def register_paths(paths: Callable[[], Iterable[str]]) -> None:
    """Make known where an application refers to blobs; called when it starts."""
    _referrers.append(paths)


def referred() -> set[str]:
    """Paths of all blobs that anything refers to."""
    return {path for paths in _referrers for path in paths() if path}


def collect() -> list[str]:
    """Remove the blobs that nothing refers to any more; returns their paths.

    What was stored within the last day stays: perhaps it is about to be entered.
    """
    gone = []
    kept = referred()
    for path in stored():
        if path in kept or not _is_old(path):
            continue
        # whoever stores it in this moment has made it new, or waits and stores it again
        with _lock(shared=False):
            if _is_old(path):
                default_storage.delete(path)
                gone.append(path)
    return gone


def stored() -> Iterator[str]:
    """Paths of all blobs in the storage."""
    folders, _files = default_storage.listdir("")
    for folder in folders:
        for name in default_storage.listdir(folder)[1]:
            yield f"{folder}/{name}"


def copy_out(path: str, to: IO[bytes]) -> None:
    """Write a blob's content into a stream.

    Raises
    ------
    Damaged
        If it does not hold what its name says.
    """
    digest = hashlib.sha256()
    with default_storage.open(path) as stream:
        while chunk := stream.read(_CHUNK):
            digest.update(chunk)
            to.write(chunk)
    _check(digest.hexdigest(), path)


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
            copy_out(path, copy)
            copy.flush()
            yield Path(copy.name)
    else:
        with local.open("rb") as stream:
            _check(_hash_of(stream), path)
        yield local


def _check(found: str, path: str) -> None:
    """Hold the hash of what was read against the name that it is stored under."""
    if found != PurePosixPath(path).name.partition(".")[0]:
        raise Damaged(f"The stored file {path} was damaged.")


def _hash_of(stream: IO[bytes]) -> str:
    digest = hashlib.sha256()
    while chunk := stream.read(_CHUNK):
        digest.update(chunk)
    return digest.hexdigest()
