"""Examination: one module for each question of the seam."""

import time
from dataclasses import replace

from caulkcore.diagnose.diagnosis import Diagnosis
from caulkcore.mesh.triangle_mesh import Mesh
from caulkcore.progress import SILENT, Progress
from caulkcore.thickness.thickness_map import measure_gap_width, measure_thickness

from .findings import closed, inside, one_solid, size, walls
from .findings.materials import judge
from .findings.pieces import pieces
from .findings.spread_pieces import SpreadPieces
from .limits import USUAL, Limits, Machine
from .questions import CROSSINGS, QUESTIONS
from .report import Report, Unasked
from .rule_sheets import RuleSheet
from .unit_guess import GIVEN, UnitGuess

ALL = tuple(q.key for q in QUESTIONS)
"""Keys of all questions."""


_SHOWN = 2.0
"""Walls are measured up to so many times the material's greatest limit, for the map."""
_NO_RULES = Unasked("walls", "no-rules", "no rules for the material", "The material has no rules.")
"""Why *Walls* is not asked, if it is not."""
_CROSSED = Unasked(
    "walls",
    "skins-cross",
    "waits for one solid",
    "Where skins cross, thickness means nothing: make it one solid first.",
)
"""See `_NO_RULES`."""
_TOO_LARGE = Unasked(
    "walls",
    "not-measured",
    "not measured yet",
    f"Models of more than {walls.MOST_FACES:,} triangles are measured when you ask for it.",
)
"""See `_NO_RULES`."""
_NO_SOLID = Unasked(
    "walls",
    "no-solid",
    "waits for a solid",
    "A skin without thickness has no walls: give it a thickness, or close it.",
)
"""See `_NO_RULES`."""


def examine(
    mesh: Mesh,
    unit: UnitGuess = GIVEN,
    *,
    progress: Progress = SILENT,
    questions: tuple[str, ...] = ALL,
    limits: Limits = USUAL,
    rules: RuleSheet | None = None,
    rule_sheets: tuple[RuleSheet, ...] = (),
    most_faces: int = walls.MOST_FACES,
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
    rules : RuleSheet, optional
        What the material asks for: sizes are judged by it instead of the shop's. Without it the
        question *Walls* is not asked, nor where skins cross.
    rule_sheets : tuple of RuleSheet
        All materials of the shop, to be told what each says.
    most_faces : int
        Walls of larger meshes are not measured.

    Returns
    -------
    Report

    Raises
    ------
    OperationRefused
        If a limit of the rules is beyond what can be measured.
    Cancelled
        If `progress` asks to stop.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> cube = cuboid()
    >>> report = examine(Mesh(cube.vertices, cube.faces[1:]))
    >>> report.leaks
    {'open-edges': 3}
    """
    start = time.perf_counter()
    limits = limits.of_material(rules)
    whole, progress = progress, progress.span(0.0, 0.5 if rules else 1.0)
    progress.step("Measuring", 0.0)
    findings = size.find(mesh, unit, limits)
    diagnosis = Diagnosis.of(mesh)
    progress.step("Looking for faces that do not count", 0.05)
    _ = diagnosis.kept
    progress.step("Walking the edges", 0.15)
    _ = diagnosis.boundary_loops
    progress.step("Looking at what lies inside what", 0.25)
    _ = diagnosis.nesting
    progress.step("Collecting what was found", 0.35)
    findings += closed.find(diagnosis)
    if "solid" in questions:
        progress.step("Looking for triangles that cross", 0.5)
        findings += one_solid.find(diagnosis, limits)
    if "inside" in questions:
        progress.step("Looking inside", 0.95)
        findings += inside.find(diagnosis, limits)
    found = pieces(diagnosis, limits)
    asked = tuple(q for q in questions if q != "walls")
    seconds = time.perf_counter() - start
    report = Report(mesh, found, tuple(findings), seconds, unit, asked)
    if "walls" not in questions:
        return report
    return with_walls(
        report,
        rules,
        progress=whole.span(0.5, 1.0),
        rule_sheets=rule_sheets,
        most_faces=most_faces,
        machines=limits.machines,
    )


def with_walls(
    report: Report,
    rules: RuleSheet | None,
    *,
    progress: Progress = SILENT,
    rule_sheets: tuple[RuleSheet, ...] = (),
    most_faces: int = walls.MOST_FACES,
    machines: tuple[Machine, ...] = (),
    apart: tuple[int, ...] = (),
) -> Report:
    """A report with the question *Walls* asked, too, or with the reason why it was not.

    Where pieces overlap on purpose, each of them is judged alone, as if the others were not there.

    Parameters
    ----------
    report : Report
        Of an examination that asked whether skins cross.
    rules : RuleSheet or None
    progress : Progress
    rule_sheets : tuple of RuleSheet
    most_faces : int
        As of `examine`.
    machines : tuple of Machine
        The shop's.
    apart : tuple of int
        Shells that overlap others on purpose, and stay apart from them.

    Returns
    -------
    Report

    Raises
    ------
    OperationRefused
        If a limit of the rules is beyond what can be measured.
    Cancelled
        If `progress` asks to stop.
    """
    pieces = report.pieces
    spread = (
        SpreadPieces.of(report.mesh, pieces, apart) if _overlap_on_purpose(report, apart) else None
    )
    mesh = spread.mesh if spread else report.mesh
    # whoever asks about the mesh below finds what is known of it as long as it is held here
    known = Diagnosis.of(mesh)
    why = _why_not(report, rules, most_faces, crossed=spread is None)
    limits = walls.limits_of(rules) if rules else set()
    if why is not None or rules is None or not limits:
        unasked = (why,) if why is not None else ()
        questions = report.questions if unasked else (*report.questions, "walls")
        told = judge(report.mesh, pieces, None, rule_sheets, machines=machines)
        return replace(report, unasked=unasked, questions=questions, verdicts=told)
    start = time.perf_counter()
    every = limits.union(*(walls.limits_of(one) for one in rule_sheets))
    # sampled for the material that asks for least, so that every material judges the same samples
    sheets = [one for one in (rules, *rule_sheets) if walls.limits_of(one)]
    thickness = measure_thickness(
        mesh,
        min(max(walls.limits_of(one)) for one in sheets),
        progress=progress.span(0.0, 0.7),
        greatest=max(_SHOWN * max(limits), max(every)),
    )
    gaps = None
    if rules.clearance or rules.engraved:
        narrow = {max(one.clearance, one.engraved) for one in (rules, *rule_sheets)} - {0.0}
        gaps = measure_gap_width(
            mesh,
            min(narrow),
            progress=progress.span(0.7, 1.0),
            greatest=max(_SHOWN * max(rules.clearance, rules.engraved), *narrow),
            inside=thickness,
        )
    findings = walls.find(thickness, gaps, rules, pieces)
    if spread:
        findings = [spread.back(one) for one in findings]
    told = judge(report.mesh, pieces, thickness, rule_sheets, gaps, machines=machines)
    del known
    return replace(
        report,
        findings=(*report.findings, *findings),
        seconds=report.seconds + time.perf_counter() - start,
        questions=(*report.questions, "walls"),
        walls=thickness,
        could_miss=thickness.could_miss(max(limits)),
        thinnest=walls.thinnest(thickness, rules, pieces.meant),
        verdicts=told,
    )


def _overlap_on_purpose(report: Report, apart: tuple[int, ...]) -> bool:
    """Whether shells overlap, and each overlap is of a piece that stays apart."""
    crossing = {f.kind: f for f in report.findings if f.kind in CROSSINGS}
    if set(crossing) != {"overlapping-shells"}:
        return False
    return all(set(apart).intersection(one.pieces) for one in crossing["overlapping-shells"].places)


def _why_not(
    report: Report, rules: RuleSheet | None, most_faces: int, *, crossed: bool
) -> Unasked | None:
    if rules is None:
        return _NO_RULES
    if crossed and any(f.kind in CROSSINGS for f in report.findings):
        # some of the skins lie in material, and walls mean nothing
        return _CROSSED
    if len(report.mesh.faces) > most_faces:
        return _TOO_LARGE
    return None if report.pieces.meant.any() else _NO_SOLID
