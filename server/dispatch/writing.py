"""What a child process does for a release: writes the file and reads it back.

Knows nothing of Django or a database.
"""

import json
from pathlib import Path
from typing import Any

from bench.packing import load_labelled
from caulkcore.errors import CaulkError
from caulkcore.progress import Progress
from caulkjob.delivery import deliver


def write_and_check(
    source: Path, folder: Path, given: dict[str, Any], progress: Progress
) -> dict[str, Any]:
    """Write a revision as it will be delivered, read that back, and examine it."""
    with source.open("rb") as stream:
        mesh, labels = load_labelled(stream)
    path = folder / f"delivered.{given['format']}"
    report = deliver(mesh, path, given["name"], labels, progress=progress).report
    if not report.tight:
        told = " ".join(f.text for f in report.findings if f.severity == "leak")
        raise CaulkError(f"The file as written is not tight, so it was not released. {told}")
    return {"report": json.loads(json.dumps(report.as_json()))}
