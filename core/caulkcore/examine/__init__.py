"""Examination: one module for each question of the seam."""

import time

from ..kinds import QUESTIONS
from ..mesh import Mesh
from ..progress import SILENT, Progress
from ..units import GIVEN, UnitGuess
from . import closed, inside, size, solid
from .finding import Finding, Place
from .limits import USUAL, Limits
from .pieces import Pieces, pieces
from .report import Report
from .skin import Skin

__all__ = ["Finding", "Limits", "Pieces", "Place", "Report", "Skin", "examine"]

ALL = tuple(q.key for q in QUESTIONS)


def examine(
    mesh: Mesh,
    unit: UnitGuess = GIVEN,
    progress: Progress = SILENT,
    questions: tuple[str, ...] = ALL,
    limits: Limits = USUAL,
) -> Report:
    """Ask the questions of a mesh.

    Parameters
    ----------
    mesh : Mesh
        In millimetres.
    unit : UnitGuess
        How the file's unit was come by; a doubtful one becomes a finding.
    progress : Progress
    questions : tuple of str
        Keys of the questions to ask; all by default.
    limits : Limits
        The shop's.

    Returns
    -------
    Report
    """
    start = time.perf_counter()
    progress.step("Measuring", 0.0)
    findings = size.find(mesh, unit, limits)
    skin = Skin(mesh)
    progress.step("Looking for faces that do not count", 0.05)
    _ = skin.kept
    progress.step("Walking the edges", 0.15)
    _ = skin.loops
    progress.step("Looking at what lies inside what", 0.25)
    _ = skin.nesting
    progress.step("Collecting what was found", 0.35)
    findings += closed.find(skin)
    if "solid" in questions:
        progress.step("Looking for triangles that cross", 0.5)
        findings += solid.find(skin, limits)
    if "inside" in questions:
        progress.step("Looking inside", 0.95)
        findings += inside.find(skin, limits)
    found = pieces(skin, limits)
    return Report(mesh, found, tuple(findings), time.perf_counter() - start, unit)
