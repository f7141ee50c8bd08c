"""Limits that a shop sets: what counts as debris, as a near gap, as too large."""

from collections.abc import Iterable
from dataclasses import dataclass, replace

import numpy as np
from caulkcore.diagnose.components import DebrisSize
from caulkcore.mesh.arrays import Array

from .rule_sheets import RuleSheet
from .unit_guess import LARGEST_PLAUSIBLE


@dataclass(frozen=True)
class Machine:
    """A printer: its process and the sides of its build volume, mm."""

    name: str
    process: str
    sides: tuple[float, float, float]


@dataclass(frozen=True)
class Limits:
    """What the checks of *Size*, *One solid* and *Inside* measure against.

    Attributes
    ----------
    build_volume : tuple of float
        Sides of the largest machine's build volume, mm.
    smallest_part : float
        Longest side below which a part gets lost in cleaning, mm.
    file_bytes : int
        Largest file to send on, bytes; judged as binary STL.
    near_gap : float
        Solids nearer than this that do not touch were probably meant to, mm.
    debris_size : float
        A shell is debris if its bounding box's diagonal is at most this, mm.
    debris_volume, debris_reach : float
        A shell is debris, too, if it holds at most this, mm³, and its diagonal is at most that, mm.
    machines : tuple of Machine
        The shop's; a part must fit one of its process, if there are any.
    process : str
        The material's.
    """

    build_volume: tuple[float, float, float] = (LARGEST_PLAUSIBLE,) * 3
    smallest_part: float = 3.0
    file_bytes: int = 100_000_000
    near_gap: float = 0.05
    debris_size: float = 0.5
    debris_volume: float = 0.1
    debris_reach: float = 2.0
    machines: tuple[Machine, ...] = ()
    process: str = ""

    @property
    def debris(self) -> DebrisSize:
        """How small a shell must be to count as debris."""
        return DebrisSize(self.debris_size, self.debris_volume, self.debris_reach)

    def of_material(self, rules: RuleSheet | None) -> "Limits":
        """These limits, but the sizes as a material's rules have them.

        Parameters
        ----------
        rules : RuleSheet or None

        Returns
        -------
        Limits
        """
        if rules is None:
            return self
        return replace(
            self,
            build_volume=rules.largest,
            smallest_part=rules.smallest,
            process=rules.process,
        )


USUAL = Limits()
"""The limits where nobody has set others."""


def room_for(
    size: Array, most: tuple[float, float, float], machines: Iterable[Machine], process: str
) -> tuple[Array, Machine | None]:
    """The sides that a part may have, ascending, and the machine to blame if it is larger.

    Of the process's machines it is the one that the part fits best, and first of all at all; none
    if it is larger than the material takes anyway.

    Parameters
    ----------
    size : ndarray, shape (3,)
        Of the part, mm.
    most : tuple of float
        Sides of the largest part that the material takes, mm.
    machines : iterable of Machine
    process : str

    Returns
    -------
    room : ndarray, shape (3,)
        mm.
    machine : Machine or None

    Examples
    --------
    >>> small = Machine("Short lantern", "Vat resin", (140, 90, 180))
    >>> room, machine = room_for(np.array([200.0, 10, 10]), (400, 400, 400), [small], "Vat resin")
    >>> room.tolist(), machine.name
    ([90, 140, 180], 'Short lantern')
    """
    wanted, allowed = np.sort(size), np.sort(most)
    rooms = [
        (np.minimum(allowed, np.sort(one.sides)), one) for one in machines if one.process == process
    ]
    if not rooms:
        return allowed, None
    room, machine = max(rooms, key=lambda one: float((one[0] / np.maximum(wanted, 1e-300)).min()))
    return room, machine if (wanted <= allowed).all() else None


def worst_fit(
    sizes: Array, most: tuple[float, float, float], machines: Iterable[Machine], process: str
) -> tuple[Array, Array, Machine | None]:
    """The part of several that is most too large, or least too small, for where it is made.

    Parameters
    ----------
    sizes : ndarray, shape (k, 3)
        Of the parts, mm.
    most : tuple of float
    machines : iterable of Machine
    process : str
        These are as of `room_for`.

    Returns
    -------
    size, room : ndarray, shape (3,)
        Sides of the part and the ones that it may have, ascending, mm.
    machine : Machine or None

    Examples
    --------
    >>> size, room, _ = worst_fit(np.array([[9.0, 9.0, 9.0], [70, 5, 5]]), (50, 50, 50), (), "")
    >>> size.tolist()
    [5.0, 5.0, 70.0]
    """
    every = tuple(machines)
    # of parts by the thousand only the largest in some direction can be the worst
    ordered = np.sort(sizes, axis=1)
    worst = ordered[np.unique(ordered.argmax(axis=0))]
    found = [(size, *room_for(size, most, every, process)) for size in worst]
    return max(found, key=lambda one: float((one[0] - one[1]).max()))
