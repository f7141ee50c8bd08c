"""Writing a file as it will be delivered, and reading it back."""

from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np
from caulkcore.diagnose.diagnosis import Diagnosis
from caulkcore.io.files import write
from caulkcore.io.labels import Labels, NamedFaces
from caulkcore.mesh.groups import Groups
from caulkcore.mesh.triangle_mesh import Mesh
from caulkcore.progress import SILENT, Progress

from .examination import examine
from .intake import Source, read
from .report import Report
from .unit_guess import UnitGuess

WRITTEN = UnitGuess("mm", "given", "Written in millimetres.")
"""The unit of files that leave the shop."""

MOST_SOLIDS = 500
"""Solids that are told apart in a file; of more, none is."""


def named_solids(mesh: Mesh, name: str, labels: Labels | None = None) -> list[NamedFaces]:
    """The separate solids of a mesh; all its faces are in one of them.

    Parameters
    ----------
    mesh : Mesh
    name : str
        What the whole is called; solids without a name of their own are numbered after it.
    labels : Labels, optional
        What the file that came in calls its parts.

    Returns
    -------
    list of NamedFaces
        In the order of their shells; a single one if there is one solid, or more than
        `MOST_SOLIDS`.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> from caulkcore.mesh.concatenate import concatenate
    >>> two = concatenate([cuboid(), cuboid(at=(50.0, 0.0, 0.0))])
    >>> [one.name for one in named_solids(two, "cleat")]
    ['cleat 1', 'cleat 2']
    """
    diagnosis = Diagnosis.of(mesh)
    shell, count = diagnosis.shells
    whole = [NamedFaces(name, np.arange(len(mesh.faces)))]
    if count < 2:
        return whole
    depth, parent = diagnosis.nesting
    solid = np.where((depth % 2 == 1) & (parent >= 0), parent, np.arange(count))
    kept = np.unique(solid)
    if not 1 < len(kept) <= MOST_SOLIDS:
        return whole
    # copies and faces without area go with the first
    of_face = np.full(len(mesh.faces), kept[0])
    of_face[diagnosis.kept] = solid[shell]
    told = labels.of_shells(diagnosis.shell_of_face, count) if labels else [""] * count
    groups = Groups.by_label(np.searchsorted(kept, of_face))
    return [
        NamedFaces(told[s] or f"{name} {i + 1}", groups[i]) for i, s in enumerate(kept.tolist())
    ]


@dataclass(frozen=True)
class Delivered:
    """A file that was written, as it reads.

    Attributes
    ----------
    source : Source
    report : Report
        Of the mesh that was read back.
    """

    source: Source
    report: Report


def deliver(
    mesh: Mesh,
    path: Path,
    name: str,
    labels: Labels | None = None,
    *,
    progress: Progress = SILENT,
    **rules: Any,
) -> Delivered:
    """Write a mesh, read it back and examine that: rounding can open what was tight.

    Walls are measured on what was read back, however large it is.

    Parameters
    ----------
    mesh : Mesh
        In millimetres.
    path : Path
        Its suffix chooses the format.
    name : str
        Of the model, written into the file where the format has a place for it.
    labels : Labels, optional
        What the file that came in calls its parts.
    progress : Progress
    **rules
        What it is judged by: ``rules``, ``rule_sheets`` and ``limits`` of `examine`.

    Returns
    -------
    Delivered

    Raises
    ------
    RefusedInput
        If the format is none that is written.
    OperationRefused
        If what was written cannot be examined.
    Cancelled
        If `progress` asks to stop.
    """
    progress.step("Writing the file", 0.1)
    write(mesh, path, name, objects=named_solids(mesh, name, labels))
    progress.step("Reading it back", 0.4)
    source = read(path)
    report = examine(
        source.mesh,
        WRITTEN,
        progress=progress.span(0.5, 1.0),
        most_faces=len(source.mesh.faces),
        **rules,
    )
    return Delivered(source, report)
