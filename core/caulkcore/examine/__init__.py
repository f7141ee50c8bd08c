"""Examination: one module for each question of the seam."""

import time

import numpy as np

from ..kinds import QUESTIONS
from ..mesh import Array, Mesh
from ..progress import SILENT, Progress
from ..sheets import RuleSheet
from ..units import GIVEN, UnitGuess
from . import closed, inside, size, solid, thin
from .finding import Finding, Place
from .limits import USUAL, Limits
from .pieces import Pieces, pieces
from .report import Report
from .skin import Skin

__all__ = ["USUAL", "Finding", "Limits", "Pieces", "Place", "Report", "Skin", "examine"]

ALL = tuple(q.key for q in QUESTIONS)


def examine(
    mesh: Mesh,
    unit: UnitGuess = GIVEN,
    progress: Progress = SILENT,
    questions: tuple[str, ...] = ALL,
    limits: Limits = USUAL,
    sheet: RuleSheet | None = None,
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
    sheet : RuleSheet, optional
        What the material asks for; without it the question *Walls* is not asked, nor where skins
        cross, nor of more than 300,000 faces.

    Returns
    -------
    Report
    """
    start = time.perf_counter()
    whole, progress = progress, progress.part(0.0, 0.5 if sheet else 1.0)
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
    # where skins cross, some of them lie in material, and walls mean nothing
    crossed = any(f.kind in ("overlapping-shells", "self-intersections") for f in findings)
    if sheet is None or crossed or len(mesh.faces) > thin.MOST_FACES:
        questions = tuple(q for q in questions if q != "walls")
    elif "walls" in questions:
        findings += thin.find(mesh, sheet, _meant(skin, limits), whole.part(0.5, 1.0))
    found = pieces(skin, limits)
    seconds = time.perf_counter() - start
    return Report(mesh, found, tuple(findings), seconds, unit, questions)


def _meant(skin: Skin, limits: Limits) -> Array:
    """Faces that are no debris and no part of an open sheet, shape (m,)."""
    shell, _ = skin.shells
    stays = ~skin.sheets
    stays[inside.debris(skin, limits)] = False
    meant = np.zeros(len(skin.mesh.faces), dtype=bool)
    meant[skin.kept] = stays[shell]
    return meant
