"""Examination: one module for each question of the seam."""

import time

from ..mesh import Mesh
from ..progress import SILENT, Progress
from ..units import GIVEN, UnitGuess
from . import closed, size
from .finding import Finding, Place
from .report import Report
from .skin import Skin

__all__ = ["Finding", "Place", "Report", "Skin", "examine"]


def examine(mesh: Mesh, unit: UnitGuess = GIVEN, progress: Progress = SILENT) -> Report:
    """Ask every question of a mesh.

    Parameters
    ----------
    mesh : Mesh
        In millimetres.
    unit : UnitGuess
        How the file's unit was come by; a doubtful one becomes a finding.
    progress : Progress

    Returns
    -------
    Report
    """
    start = time.perf_counter()
    progress.step("Measuring", 0.0)
    findings = size.find(mesh, unit)
    skin = Skin(mesh)
    progress.step("Looking for faces that do not count", 0.1)
    _ = skin.kept
    progress.step("Walking the edges", 0.3)
    _ = skin.loops
    progress.step("Looking at what lies inside what", 0.6)
    _ = skin.nesting
    progress.step("Collecting what was found", 0.8)
    findings += closed.find(skin)
    shells = skin.shells[1]
    return Report(mesh, shells, tuple(findings), time.perf_counter() - start, unit)
