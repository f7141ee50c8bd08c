"""What a child process does for a release: writes the file and reads it back.

Knows nothing of Django or a database.
"""

import json
from pathlib import Path
from typing import Any

from bench.computing import piece_numbers, rules_of, shells_apart, with_walls_apart
from bench.packing import load_labelled, report_for_screen
from caulkcore.diagnose.diagnosis import Diagnosis
from caulkcore.errors import CaulkError
from caulkcore.io.labels import Labels
from caulkcore.progress import Progress
from caulkjob.accepted_places import left_open
from caulkjob.delivery import deliver
from caulkjob.questions import noun


def write_and_check(
    source: Path, folder: Path, given: dict[str, Any], progress: Progress
) -> dict[str, Any]:
    """Write a revision as it will be delivered, read that back, and examine it, walls and all.

    What is found on the file itself must have been accepted, place by place.
    """
    with source.open("rb") as stream:
        mesh, labels = load_labelled(stream)
    called = dict(given["piece_names"])
    names = {shell: called[number] for shell, number in given["numbers"] if number in called}
    labels = Labels.renamed(labels, Diagnosis.of(mesh).shell_of_face, names)
    path = folder / f"delivered.{given['format']}"
    rules = rules_of(given)
    rules.pop("most_faces")  # what leaves is measured at any size
    report = deliver(
        mesh, path, given["name"], labels, progress=progress.span(0.0, 0.9), **rules
    ).report
    numbers = piece_numbers(report, given, mesh)
    most = len(report.mesh.faces)
    report = with_walls_apart(report, numbers, given, progress, most_faces=most)
    if report.unasked:
        raise CaulkError(f"The file as written was not released. {report.unasked[0].about}")
    apart = shells_apart(enumerate(numbers), given)
    told = report_for_screen(report, labels, numbers)
    rest = left_open(told["findings"], given["accepted"], apart=apart)  # type: ignore[arg-type]
    if rest:
        words = ", ".join(f"{len(f['open']):,} {noun(f['kind'], len(f['open']))}" for f in rest)
        raise CaulkError(
            f"The file as written was not released: {words} on it that nobody accepted. "
            f"{rest[0]['text']}"
        )
    return {"report": json.loads(json.dumps(report.as_json()))}
