"""What a child process finds out about itself: run in one, in place of work on a mesh."""

import os
from pathlib import Path
from typing import Any


def look_around(source: Path, folder: Path, given: dict[str, Any], progress: Any) -> dict[str, Any]:
    """Tell who it is, and try to read secrets and to overwrite what is stored."""
    found: dict[str, Any] = {"user": [os.getuid(), os.geteuid(), os.getgid(), *os.getgroups()]}
    found["read"] = len(source.read_bytes())
    (folder / "made").write_text("here")
    for what, mode in (("secrets", "r"), ("blob", "a")):
        try:
            Path(given[what]).open(mode).close()
        except OSError as refusal:
            found[what] = type(refusal).__name__
    return found
