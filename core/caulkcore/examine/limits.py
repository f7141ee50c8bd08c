"""Limits that a shop sets: what counts as debris, as a near gap, as too large."""

from dataclasses import dataclass, replace

from ..sheets import RuleSheet
from ..units import LARGEST_PLAUSIBLE


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
    """

    build_volume: tuple[float, float, float] = (LARGEST_PLAUSIBLE,) * 3
    smallest_part: float = 3.0
    file_bytes: int = 100_000_000
    near_gap: float = 0.05
    debris_size: float = 0.5
    debris_volume: float = 0.1
    debris_reach: float = 2.0

    def of_material(self, sheet: RuleSheet | None) -> "Limits":
        """These limits, but the sizes as a material's sheet has them."""
        if sheet is None:
            return self
        return replace(self, build_volume=sheet.largest, smallest_part=sheet.smallest)


USUAL = Limits()
"""The limits where nobody has set others."""
