"""Makes a shop anew from a backup, in an empty database and storage."""

import json
import shutil
import tarfile
import tempfile
from pathlib import Path, PurePosixPath
from typing import IO, Any, cast

from django.core.management.base import BaseCommand, CommandError, CommandParser
from django.db import connection
from work.blobs import keep, referred

from items.archive import DATABASE, FILES, FORMAT, TABLE_OF_CONTENTS, run_postgres


class Command(BaseCommand):
    """``manage.py restore FILE``"""

    help = __doc__ or ""

    def add_arguments(self, parser: CommandParser) -> None:
        """From where."""
        parser.add_argument("file", type=Path)

    def handle(self, *args: Any, **options: Any) -> None:
        if connection.introspection.table_names():
            raise CommandError("There is a shop here already; a backup goes into an empty place.")
        try:
            with tarfile.open(options["file"], "r:") as archive:
                n = _read(archive)
        except (OSError, tarfile.TarError, ValueError, KeyError) as problem:
            raise CommandError(f"{options['file']} is no whole backup: {problem}") from None
        lacking = referred() - n
        if lacking:
            raise CommandError(f"The backup lacks {len(lacking)} files, {min(lacking)} among them.")
        self.stderr.write(f"The database and {len(n):,} files are back.")


def _read(archive: tarfile.TarFile) -> set[str]:
    contents = json.load(_member(archive, TABLE_OF_CONTENTS))
    if contents["format"] > FORMAT:
        raise CommandError("This backup was written by a newer version; update first.")
    # the files first: a database without its files would look whole
    for path in contents["files"]:
        with _member(archive, f"{FILES}/{path}") as stream:
            found = keep(stream, "".join(PurePosixPath(path).suffixes))
        if found != path:
            raise CommandError(f"The file {path} was damaged in the backup.")
    with tempfile.NamedTemporaryFile() as dump:
        with _member(archive, DATABASE) as stream:
            shutil.copyfileobj(stream, dump)
        dump.flush()
        run_postgres("pg_restore", "--no-owner", "--single-transaction", dump.name)
    return set(contents["files"])


def _member(archive: tarfile.TarFile, name: str) -> IO[bytes]:
    found = archive.extractfile(name)
    if found is None:
        raise KeyError(name)
    return cast(IO[bytes], found)
