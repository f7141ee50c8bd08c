"""The form of a backup, and PostgreSQL's own programs that write and read its database."""

import os
import shutil
import subprocess
from pathlib import Path

from django.core.management.base import CommandError
from django.db import connection

FORMAT = 1
"""Of the archive; raised when older programs could not read it any more."""
TABLE_OF_CONTENTS = "contents.json"
DATABASE = "database.dump"
FILES = "files"


def run_postgres(name: str, *arguments: str) -> None:
    """Run one of PostgreSQL's programs on the database of this process.

    Raises
    ------
    CommandError
        If it is not installed, or falls; says why.
    """
    debian = sorted(Path("/usr/lib/postgresql").glob(f"*/bin/{name}"))
    program = str(debian[-1]) if debian else shutil.which(name)
    if program is None:
        raise CommandError(f"{name} is not installed; it comes with PostgreSQL.")
    given = connection.settings_dict
    where = [
        f"--host={given['HOST']}",
        f"--port={given['PORT']}",
        f"--username={given['USER']}",
        f"--dbname={given['NAME']}",
    ]
    env = {**os.environ, "PGPASSWORD": str(given["PASSWORD"])}
    command = [program, *where, *arguments]
    done = subprocess.run(command, env=env, capture_output=True, text=True, check=False)
    if done.returncode:
        raise CommandError((done.stderr.strip().splitlines() or [f"{name} gave no reason"])[0])
