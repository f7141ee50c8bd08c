"""Is it thick enough for its material? Walls and wires thinner than the rule sheet asks."""

from abc import ABC, abstractmethod
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from caulkcore.mesh.arrays import Array
from caulkcore.mesh.groups import Groups
from caulkcore.thickness.necks import Necks
from caulkcore.thickness.thickness_map import ThicknessMap
from caulkcore.thickness.thin_regions import ThinRegions

from ..questions import THIN, noun
from ..rule_sheets import RuleSheet
from ..text import counted, shortfall_text
from .finding import Finding, Place, Severity
from .pieces import Pieces
from .places import place_of, worst_first

MOST_FACES = 300_000
"""Meshes of more faces are not measured in an examination: it would take half a minute and more."""
_KINDS = (
    ("thin-walls", False, (False,), "Wall held on several sides"),
    ("thin-free-walls", False, (True,), "Wall standing free"),
    ("thin-wires", True, (True, False), "Wire"),
)
"""Kinds of thin region: whether it is a wire, whether it stands free (or either), its title."""
_CONSEQUENCES = {
    "thin-walls": "Such walls come out with holes, or break in cleaning.",
    "thin-free-walls": "Walls held on one side only bend, curl or break off.",
    "thin-wires": "Wires break in cleaning, often before anybody sees them.",
    "thin-necks": "What hangs together by so little breaks off, often in cleaning.",
    "fine-relief": "Raised detail so fine comes out blurred, or not at all.",
    "fine-engraving": "Cut detail so fine fills up.",
    "narrow-gaps": "Slits so narrow fuse, and what is to move sticks.",
}
"""What becomes of it in print."""


DETAIL = 2.0
"""What stands out, or is cut in, by at most so many times its thickness is detail, not a wall."""
CREASE = 0.4
"""A gap whose narrow parts are less of its wide parts is a crease, and no slit."""
RELIEF, ENGRAVING, GAP = "fine-relief", "fine-engraving", "narrow-gaps"
"""Kinds that are no walls."""
NECK = "thin-necks"
"""The kind of what holds two thick parts together."""
TITLES = {kind: title for kind, _, _, title in _KINDS} | {
    RELIEF: "Raised detail",
    ENGRAVING: "Cut detail",
    GAP: "Slit",
    NECK: "Neck",
}
"""What one place of each kind is called."""


@dataclass(frozen=True)
class Lack(ABC):
    """Something less thick than a rule sheet asks for.

    Attributes
    ----------
    limit : float
        What is asked for, mm.
    """

    limit: float

    @property
    @abstractmethod
    def thickness(self) -> float:
        """The least that was found, mm."""

    @property
    def rank(self) -> float:
        """How much is lacking, of the limit: findings list the greatest first."""
        return 1 - self.thickness / self.limit


@dataclass(frozen=True)
class TooThin(Lack):
    """A region thinner than a rule sheet asks for."""

    regions: ThinRegions
    row: int

    @property
    def thickness(self) -> float:
        """The least in it, mm."""
        return float(self.regions.thickness[self.row])


@dataclass(frozen=True)
class TooNarrow(Lack):
    """A neck of material narrower than a rule sheet asks of a wall."""

    necks: Necks
    row: int

    @property
    def thickness(self) -> float:
        """Its width, mm."""
        return float(self.necks.width[self.row])


def narrow_necks(
    walls: ThicknessMap, rules: RuleSheet, meant: Array, *, scale: float = 1.0
) -> list[TooNarrow]:
    """Necks of material that a rule sheet finds too narrow: less than a wall that is held.

    Parameters
    ----------
    walls : ThicknessMap
    rules : RuleSheet
    meant : ndarray, shape (m,), bool
        Faces that are there to stay.
    scale : float
        Judged as if the part were scaled by this.

    Returns
    -------
    list of TooNarrow
        The narrowest first.
    """
    limit = rules.wall_limit(False, False) / scale
    if not limit:
        return []
    necks = walls.necks(limit)
    return [
        TooNarrow(limit, necks, row) for row in range(len(necks)) if meant[necks.faces[row]].any()
    ]


def too_thin(
    walls: ThicknessMap, rules: RuleSheet, meant: Array, *, scale: float = 1.0
) -> dict[str, list[TooThin]]:
    """Regions that a rule sheet finds too thin, by kind of finding.

    Parameters
    ----------
    walls : Walls
    rules : RuleSheet
    meant : ndarray, shape (m,), bool
        Faces that are there to stay: not those of debris or of open sheets.
    scale : float
        Judged as if the part were scaled by this; limits and thickness are told at its true size.

    Returns
    -------
    dict
        Only kinds that there are.
    """
    found: dict[str, list[TooThin]] = {}
    for kind, wire, frees, _ in _KINDS:
        for free in frees:
            limit = rules.wall_limit(free, wire) / scale
            if not limit:
                continue
            regions = walls.regions(limit)
            rows = np.flatnonzero(
                (regions.wire == wire) & (regions.free_standing == free) & ~is_detail(regions)
            )
            found.setdefault(kind, []).extend(_meant(walls, limit, regions, rows, meant))
    _add_left_over(found, walls, rules, meant, scale)
    limit = rules.embossed / scale
    if limit:
        regions = walls.regions(limit)
        rows = np.flatnonzero(is_detail(regions))
        found[RELIEF] = _meant(walls, limit, regions, rows, meant)
    return {kind: lacks for kind, lacks in found.items() if lacks}


def _add_left_over(
    found: dict[str, list[TooThin]],
    walls: ThicknessMap,
    rules: RuleSheet,
    meant: Array,
    scale: float,
) -> None:
    """Add regions thinner than every limit that are of one kind at one limit, of another at the
    next, and were found at neither: a fin held by what is thicker than it, yet thin itself."""
    limits = [limit / scale for limit in limits_of(rules)]
    if not limits:
        return
    told = np.zeros(len(walls.samples.face), dtype=bool)
    for one in (one for lacks in found.values() for one in lacks):
        told[one.regions.samples[one.row]] = True
    regions = walls.regions(min(limits))
    detail = is_detail(regions)
    rows = [r for r in range(len(regions)) if not (detail[r] or told[regions.samples[r]].any())]
    for one in _meant(walls, min(limits), regions, np.array(rows, dtype=int), meant):
        wire, free = bool(regions.wire[one.row]), bool(regions.free_standing[one.row])
        kind = next(kind for kind, wires, frees, _ in _KINDS if wires == wire and free in frees)
        found.setdefault(kind, []).append(one)


def is_detail(regions: ThinRegions) -> Array:
    """Which regions are no walls but detail: low for their thickness, or shallow.

    Parameters
    ----------
    regions : ThinRegions

    Returns
    -------
    ndarray, shape (r,), bool
    """
    return regions.is_low(DETAIL)


def too_narrow(gaps: ThicknessMap, rules: RuleSheet, meant: Array) -> dict[str, list[TooThin]]:
    """Slits and engraved detail that a rule sheet finds too narrow, by kind of finding.

    Parameters
    ----------
    gaps : Walls
        The space outside, as `measure_gap_width` measures it.
    rules : RuleSheet
    meant : ndarray, shape (m,), bool

    Returns
    -------
    dict of str to list of TooThin
        Only kinds that there are.
    """
    found = {}
    for kind, limit, shallow in (
        (GAP, rules.clearance, False),
        (ENGRAVING, rules.engraved, True),
    ):
        if limit:
            regions = gaps.regions(limit)
            rows = np.flatnonzero((is_detail(regions) == shallow) & ~_taper(gaps, regions))
            found[kind] = _meant(gaps, limit, regions, rows, meant)
    return {kind: lacks for kind, lacks in found.items() if lacks}


def _taper(gaps: ThicknessMap, regions: ThinRegions) -> Array:
    """Which gaps run out to nothing, as creases do, rather than having two sides of their own."""
    faces, own, across = gaps.mesh.faces, gaps.samples.face, gaps.depths.contact
    told = np.zeros(len(regions), dtype=bool)
    for row in range(len(regions)):
        members = regions.samples[row]
        narrow, wide = np.percentile(gaps.depths.wall[members], (10, 90))
        # of large faces few samples lie deep in it, but its two sides have a corner in common
        facing = members[across[members] >= 0]
        here, there = faces[own[facing]], faces[across[facing]]
        joined = (here[:, :, None] == there[:, None, :]).any(axis=(1, 2))
        told[row] = narrow < CREASE * wide or 2 * joined.sum() > len(members)
    return told


def _meant(
    walls: ThicknessMap, limit: float, regions: ThinRegions, rows: Array, meant: Array
) -> list[TooThin]:
    """Those of some regions that have a face that is there to stay."""
    return [
        TooThin(limit, regions, int(row))
        for row in rows
        if meant[walls.samples.face[regions.samples[int(row)]]].any()
    ]


@dataclass(frozen=True)
class Thinnest:
    """The thinnest wall of one kind, whether that is enough or not.

    Attributes
    ----------
    kind : str
        A kind of thin finding.
    title : str
        The same for a person.
    thickness : float or None
        mm; None where all of this kind is thicker than `beyond`.
    limit : float
        What the material asks of it, mm.
    beyond : float
        Thickness up to which it was measured, mm.
    """

    kind: str
    title: str
    thickness: float | None
    limit: float
    beyond: float

    def as_json(self) -> dict[str, Any]:
        """All of it as plain values.

        Returns
        -------
        dict of str to value
        """
        found = None if self.thickness is None else round(self.thickness, 4)
        return {
            "kind": self.kind,
            "title": self.title,
            "thickness_mm": found,
            "limit_mm": round(self.limit, 4),
            "beyond_mm": round(self.beyond, 4),
        }


def thinnest(walls: ThicknessMap, rules: RuleSheet, meant: Array) -> tuple[Thinnest, ...]:
    """The thinnest wall of each kind that a rule sheet asks about.

    Walls below their limit are told as they are found; where there are none, the thinnest of that
    kind among all that is thinner than was measured.

    Parameters
    ----------
    walls : ThicknessMap
    rules : RuleSheet
    meant : ndarray, shape (m,), bool
        Faces that are there to stay.

    Returns
    -------
    tuple of Thinnest

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> from caulkcore.thickness.thickness_map import measure_thickness
    >>> from caulkjob.rule_sheets import usual_rule_sheet
    >>> plate = measure_thickness(cuboid((20.0, 20.0, 1.2)), 1.0)
    >>> found = thinnest(plate, usual_rule_sheet("sintered-nylon"), np.ones(12, dtype=bool))
    >>> [(one.kind, one.thickness, one.limit) for one in found if one.thickness]
    [('thin-free-walls', 1.2, 0.9)]
    """
    failing = too_thin(walls, rules, meant)
    told = []
    for kind, wire, frees, title in _KINDS:
        limits = {free: rules.wall_limit(free, wire) for free in frees}
        asked = {free: limit for free, limit in limits.items() if limit}
        if not asked:
            continue
        if kind in failing:
            worst: Lack = max(failing[kind], key=lambda one: one.rank)
            told.append(Thinnest(kind, title, worst.thickness, worst.limit, walls.most))
            continue
        told.append(_thick_enough(walls, kind, title, wire, asked, meant))
    necks = narrow_necks(walls, rules, meant)
    if necks:
        told.append(Thinnest(NECK, TITLES[NECK], necks[0].thickness, necks[0].limit, walls.most))
    return tuple(told)


def _thick_enough(
    walls: ThicknessMap, kind: str, title: str, wire: bool, asked: dict[bool, float], meant: Array
) -> Thinnest:
    """The thinnest of a kind that is thick enough everywhere."""
    regions = walls.regions(walls.most)
    best = Thinnest(kind, title, None, max(asked.values()), walls.most)
    least = np.inf
    for free, limit in asked.items():
        rows = np.flatnonzero((regions.wire == wire) & (regions.free_standing == free))
        for one in _meant(walls, limit, regions, rows, meant):
            # what is below the limit and yet no finding of this kind is detail, or of another:
            # the region goes on beyond it
            wall = walls.depths.wall[regions.samples[one.row]]
            thickness = float(wall.min(where=wall >= limit, initial=np.inf))
            if thickness / limit < least:
                least = thickness / limit
                best = Thinnest(kind, title, thickness, limit, walls.most)
    return best


def limits_of(rules: RuleSheet) -> set[float]:
    """Limits on walls and wires that a rule sheet knows, mm.

    Parameters
    ----------
    rules : RuleSheet

    Returns
    -------
    set of float

    Examples
    --------
    >>> from caulkjob.rule_sheets import usual_rule_sheet
    >>> sorted(limits_of(usual_rule_sheet("sintered-nylon")))
    [0.7, 0.8, 0.9, 1.0]
    """
    limits = {rules.wall_limit(free, wire) for free in (False, True) for wire in (False, True)}
    return limits - {0.0}


def find(
    walls: ThicknessMap, gaps: ThicknessMap | None, rules: RuleSheet, parts: Pieces
) -> list[Finding]:
    """The findings of *Walls*; parameters as those of `too_thin` and `too_narrow`.

    Parameters
    ----------
    walls : ThicknessMap
    gaps : ThicknessMap or None
    rules : RuleSheet
    parts : Pieces

    Returns
    -------
    list of Finding
    """
    found = [
        _finding(walls, rules, kind, chosen)
        for kind, chosen in too_thin(walls, rules, parts.meant).items()
    ]
    necks = narrow_necks(walls, rules, parts.meant)
    if necks:
        found.append(_neck_finding(walls, rules, necks))
    if gaps is not None:
        cut = too_narrow(gaps, rules, parts.open_to_air)
        found += [_finding(gaps, rules, kind, chosen) for kind, chosen in cut.items()]
    return found


def _in_sentence(rules: RuleSheet) -> str:
    """A material's name, which begins with a capital in a table, not in a sentence."""
    return rules.name[:1].lower() + rules.name[1:]


def _neck_finding(walls: ThicknessMap, rules: RuleSheet, chosen: list[TooNarrow]) -> Finding:
    def place(i: int) -> Place:
        one = chosen[i]
        necks, row = one.necks, one.row
        faces, lines = np.unique(necks.faces[row]), np.unique(necks.edges[row], axis=0)
        made = place_of(
            walls.mesh,
            TITLES[NECK],
            shortfall_text(one.thickness, one.limit),
            len(lines),
            faces=faces,
            lines=lines,
            facing=necks.at[row] - necks.middle[row],
        )
        return replace(made, at=necks.at[row], thickness=one.thickness, limit=one.limit)

    def faces(selected: Array) -> Array:
        return np.unique(np.concatenate([chosen[i].necks.faces[chosen[i].row] for i in selected]))

    n = len(chosen)
    lacks = np.array([one.rank for one in chosen])
    worst = chosen[int(np.argmax(lacks))]
    text = (
        f"At {counted(n, 'place')} two thick parts hang together by less than "
        f"{_in_sentence(rules)} asks of a wall: the narrowest by "
        f"{shortfall_text(worst.thickness, worst.limit)}. {_CONSEQUENCES[NECK]}"
    )
    return Finding(NECK, "call", n, text, worst_first(walls.mesh, NECK, lacks, place, faces=faces))


def _finding(walls: ThicknessMap, rules: RuleSheet, kind: str, chosen: list[TooThin]) -> Finding:
    face = walls.samples.face
    parts = Groups(
        np.concatenate([one.regions.samples[one.row] for one in chosen]),
        np.cumsum([0, *(len(one.regions.samples[one.row]) for one in chosen)]),
    )
    lacks = np.array([one.rank for one in chosen])

    def place(i: int) -> Place:
        regions, row = chosen[i].regions, chosen[i].row
        measure = shortfall_text(chosen[i].thickness, chosen[i].limit)
        members = parts[i]
        normal = walls.samples.normals[members[np.argmin(walls.depths.wall[members])]]
        if kind in (GAP, ENGRAVING):
            normal = -normal  # measured outside in
        faces = np.unique(face[members])
        made = place_of(
            walls.mesh,
            TITLES[kind],
            measure,
            len(faces),
            faces=faces,
            curves=regions.outline[regions.outline_of == row],
            facing=normal,
        )
        one = chosen[i]
        made = replace(made, at=regions.at[row], thickness=one.thickness, limit=one.limit)
        if kind not in THIN:
            return made
        lack = np.maximum(one.limit - walls.depths.wall[members], 0.0)
        # each side goes out by half of what is lacking
        adds = float(walls.samples.area[members] @ lack) / 2
        return replace(made, adds=adds, shift=float(lack.max()) / 2)

    def faces(selected: Array) -> Array:
        return np.unique(face[parts.of(selected)])

    n = len(chosen)
    worst = chosen[int(np.argmax(lacks))]
    less, least = ("narrower", "narrowest") if kind in (GAP, ENGRAVING) else ("thinner", "thinnest")
    text = (
        f"{n:,} {noun(kind, n)} {less} than {_in_sentence(rules)} asks for: the {least} "
        f"{shortfall_text(worst.thickness, worst.limit)}. {_CONSEQUENCES[kind]}"
    )
    if walls.open_faces:
        text += " Where the skin is not closed, thickness means little; mend it first."
    places = worst_first(walls.mesh, kind, lacks, place, faces=faces)
    severity: Severity = "note" if kind in (RELIEF, ENGRAVING) else "call"
    return Finding(kind, severity, n, text, places)
