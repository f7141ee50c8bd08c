"""Writes all that a shop has into one file: the database, and every stored file it refers to."""

import io
import json
import os
import tarfile
import tempfile
from pathlib import Path
from typing import Any

from django.core.management.base import BaseCommand, CommandError, CommandParser
from work.blobs import collecting_waits, copy_out, referred

from items.archive import DATABASE, FILES, FORMAT, TABLE_OF_CONTENTS, run_postgres


class Command(BaseCommand):
    """``manage.py backup FILE``"""

    help = __doc__ or ""

    def add_arguments(self, parser: CommandParser) -> None:
        """Where to."""
        parser.add_argument("file", type=Path)

    def handle(self, *args: Any, **options: Any) -> None:
        to: Path = options["file"]
        if not to.parent.is_dir():
            raise CommandError(f"There is no folder {to.parent}.")
        beside = to.with_name(f".{to.name}.part")
        try:
            # whatever the database refers to stays until it is in the file
            with collecting_waits(), tarfile.open(beside, "w") as archive:
                n = _write(archive)
            with beside.open("rb") as whole:
                os.fsync(whole.fileno())
            os.replace(beside, to)
        except BaseException:
            beside.unlink(missing_ok=True)
            raise
        self.stderr.write(f"{to}: the database and {n:,} files, {to.stat().st_size / 1e6:,.1f} MB")


def _write(archive: tarfile.TarFile) -> int:
    before = referred()
    with tempfile.NamedTemporaryFile() as dump:
        run_postgres("pg_dump", "--format=custom", "--no-owner", f"--file={dump.name}")
        # what was removed or entered while the database was written
        paths = sorted(before | referred())
        contents = json.dumps({"format": FORMAT, "files": paths}).encode()
        entry = tarfile.TarInfo(TABLE_OF_CONTENTS)
        entry.size = len(contents)
        archive.addfile(entry, io.BytesIO(contents))
        archive.add(dump.name, DATABASE)
    for path in paths:
        with tempfile.TemporaryFile() as copy:
            copy_out(path, copy)
            entry = tarfile.TarInfo(f"{FILES}/{path}")
            entry.size = copy.tell()
            copy.seek(0)
            archive.addfile(entry, copy)
    return len(paths)
