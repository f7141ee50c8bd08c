"""What a child process does for a release: writes the file and reads it back.

Knows nothing of Django or a database.
"""

import json
from pathlib import Path
from typing import Any

from bench.packing import load_labelled
from caulkcore.errors import CaulkError
from caulkcore.progress import Progress
from caulkjob import examine, read, write
from caulkjob.delivery import named_solids
from caulkjob.units import UnitGuess


def write_and_check(
    source: Path, folder: Path, given: dict[str, Any], progress: Progress
) -> dict[str, Any]:
    """Write a revision as it will be delivered, read that back, and examine it."""
    with source.open("rb") as stream:
        mesh, labels = load_labelled(stream)
    path = folder / f"delivered.{given['format']}"
    progress.step("Writing the file", 0.1)
    write(mesh, path, given["name"], named_solids(mesh, given["name"], labels))
    progress.step("Reading it back", 0.4)
    back = read(path).mesh
    report = examine(
        back, UnitGuess("mm", "given", "Written in millimetres."), progress.span(0.5, 1.0)
    )
    if not report.tight:
        told = " ".join(f.text for f in report.findings if f.severity == "leak")
        raise CaulkError(f"The file as written is not tight, so it was not released. {told}")
    return {"report": json.loads(json.dumps(report.as_json()))}
