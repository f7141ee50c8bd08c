"""A folder in which files are there whole or not at all."""

import os
from pathlib import Path
from tempfile import NamedTemporaryFile
from typing import Any

from django.core.files.base import File
from django.core.files.storage import FileSystemStorage

_CHUNK = 1 << 20


class WholeFileStorage(FileSystemStorage):
    """Writes beside, makes sure that it is on the disk, and gives it its name only then."""

    def _save(self, name: str, content: "File[Any]") -> str:
        path = Path(self.path(name))
        path.parent.mkdir(parents=True, exist_ok=True)
        with NamedTemporaryFile(dir=path.parent, prefix=".", delete=False) as beside:
            try:
                for chunk in content.chunks(_CHUNK):
                    beside.write(chunk)
                beside.flush()
                os.fsync(beside.fileno())
                os.chmod(beside.name, 0o644)
                os.replace(beside.name, path)
            except BaseException:
                Path(beside.name).unlink(missing_ok=True)
                raise
        folder = os.open(path.parent, os.O_RDONLY)
        try:
            os.fsync(folder)
        finally:
            os.close(folder)
        return name
