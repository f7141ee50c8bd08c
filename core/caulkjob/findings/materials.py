"""Which materials would take the part as it is: walls, sizes, hollows, price and weight of each."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from caulkcore.diagnose.components import part_sizes
from caulkcore.diagnose.diagnosis import Diagnosis
from caulkcore.mesh.arrays import Array
from caulkcore.mesh.triangle_mesh import Mesh
from caulkcore.thickness.thickness_map import LEAST_THICKNESS, ThicknessMap

from ..limits import USUAL, Machine, worst_fit
from ..questions import THIN
from ..rule_sheets import RuleSheet
from .pieces import VOID, Pieces
from .walls import (
    ENGRAVING,
    NECK,
    RELIEF,
    TITLES,
    Lack,
    narrow_necks,
    too_narrow,
    too_thin,
)

_FINE = 1000
"""Scales are told to a thousandth."""


@dataclass(frozen=True)
class Fault:
    """One demand of a rule sheet that a part does not meet.

    Attributes
    ----------
    what : str
        The demand: a kind of thin finding, ``too-small``, ``too-large`` or ``sealed-voids``.
    title : str
        The same for a person.
    found, asked : float
        mm, the worst; 0 for hollows.
    places : int
    """

    what: str
    title: str
    found: float
    asked: float
    places: int


@dataclass(frozen=True)
class Verdict:
    """What a material says to a part.

    Attributes
    ----------
    rules : RuleSheet
    faults : tuple of Fault
    weight_g, price : float
        Of one part; the price in the shop's currency.
    scale : float or None
        The factor nearest to 1 by which it meets the demands on walls and sizes; None if there is
        none.
    """

    rules: RuleSheet
    faults: tuple[Fault, ...]
    weight_g: float
    price: float
    scale: float | None

    def as_json(self) -> dict[str, Any]:
        """All of it as plain values.

        Returns
        -------
        dict of str to value
        """
        return {
            "key": self.rules.key,
            "name": self.rules.name,
            "process": self.rules.process,
            "passes": not self.faults,
            "faults": [
                {**vars(f), "found": round(f.found, 4), "asked": round(f.asked, 4)}
                for f in self.faults
            ],
            "weight_g": round(self.weight_g, 3),
            "price": round(self.price, 2),
            "scale": self.scale,
        }


def judge(
    mesh: Mesh,
    pieces: Pieces,
    walls: ThicknessMap | None,
    rule_sheets: Iterable[RuleSheet],
    gaps: ThicknessMap | None = None,
    *,
    machines: tuple[Machine, ...] = (),
) -> tuple[Verdict, ...]:
    """What each material says to a part.

    Parameters
    ----------
    mesh : Mesh
    pieces : Pieces
    walls : Walls or None
        Thickness all over it, measured to the greatest limit; None if it was not
        measured: then walls are not judged.
    rule_sheets : iterable of RuleSheet
    gaps : Walls, optional
        The space outside, measured as far.
    machines : tuple of Machine, optional
        The shop's; the part must fit one of each material's process.

    Returns
    -------
    tuple of Verdict
        In the order of the rule sheets.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> from caulkcore.diagnose.diagnosis import Diagnosis
    >>> from caulkjob.findings.pieces import pieces
    >>> from caulkjob.limits import USUAL
    >>> from caulkjob.rule_sheets import usual_rule_sheet
    >>> cube = cuboid()
    >>> found = pieces(Diagnosis(cube), USUAL)
    >>> (verdict,) = judge(cube, found, None, [usual_rule_sheet("sintered-nylon")])
    >>> verdict.faults
    ()
    """
    sheets = tuple(rule_sheets)
    if not sheets:
        return ()
    sizes = part_sizes(Diagnosis.of(mesh), USUAL.debris)
    return tuple(_verdict(sizes, mesh, pieces, walls, gaps, rules, machines) for rules in sheets)


def _verdict(
    sizes: Array,
    mesh: Mesh,
    pieces: Pieces,
    walls: ThicknessMap | None,
    gaps: ThicknessMap | None,
    rules: RuleSheet,
    machines: tuple[Machine, ...],
) -> Verdict:
    size, room, machine = worst_fit(sizes, rules.largest, machines, rules.process)
    faults = []
    thin = too_thin(walls, rules, pieces.meant) if walls is not None else {}
    if gaps is not None:
        thin |= too_narrow(gaps, rules, pieces.open_to_air)
    for kind, chosen in thin.items():
        if kind not in (RELIEF, ENGRAVING):
            faults.append(_worst(kind, chosen))
    necks = narrow_necks(walls, rules, pieces.meant) if walls is not None else []
    if necks:
        faults.append(_worst(NECK, necks))
    longest = float(mesh.size.max())
    if longest < rules.smallest:
        faults.append(Fault("too-small", "Longest side", longest, rules.smallest, 1))
    if (size > room).any():
        side = int(np.argmax(size - room))
        of = f" of {machine.name}" if machine else ""
        fault = Fault("too-large", f"Build volume{of}", float(size[side]), float(room[side]), 1)
        faults.append(fault)
    voids = sum(what == VOID for what in pieces.what)
    if voids and rules.must_drain:
        faults.append(Fault("sealed-voids", "Hollow without a drain", 0.0, 0.0, voids))
    volume = pieces.total_volume
    return Verdict(
        rules,
        tuple(faults),
        volume / 1000 * rules.density_g_cm3,
        rules.price_per_part + volume / 1000 * rules.price_per_cm3,
        _scale(size, room, walls, rules, pieces.meant),
    )


def _lacking(one: Lack) -> float:
    return one.limit / max(one.thickness, 1e-9)


def _worst(kind: str, chosen: Sequence[Lack]) -> Fault:
    worst = max(chosen, key=_lacking)
    return Fault(kind, TITLES[kind], worst.thickness, worst.limit, len(chosen))


def _scale(
    size: Array, room: Array, walls: ThicknessMap | None, rules: RuleSheet, meant: Array
) -> float | None:
    """The factor nearest to 1 by which walls are thick enough and the size fits."""
    most = float((room / np.maximum(size, 1e-300)).min())
    least = rules.smallest / max(float(size[-1]), 1e-300)
    at = min(1.0, most)
    if walls is not None:
        # scaled down, walls go thinner: they are judged at the size that fits
        thin = too_thin(walls, rules, meant, scale=at)
        narrow = narrow_necks(walls, rules, meant, scale=at)
        every: list[Lack] = [*narrow, *(x for k in THIN for x in thin.get(k, ()))]
        lacks = [at * x.limit / max(x.thickness, LEAST_THICKNESS) for x in every]
        least = max([least, *lacks])
    scale = max(at, least)
    if scale > most:
        return None
    towards = np.ceil if scale > 1 else np.floor
    return float(towards(scale * _FINE) / _FINE)
