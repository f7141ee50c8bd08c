"""What an operation will take and leave, told before it runs; from what a report knows."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..examine.finding import length_text
from ..examine.size import stl_bytes


@dataclass(frozen=True)
class Measures:
    """What is known of a mesh without reading it.

    Attributes
    ----------
    triangles : int
    area : float
        mm².
    longest : float
        Longest side of its box, mm.
    closed : bool
        Whether it has no open edge.
    smallest : float, optional
        The smallest feature found, mm; see `smallest_feature`.
    """

    triangles: int
    area: float
    longest: float
    closed: bool = True
    smallest: float | None = None

    @property
    def mean_edge(self) -> float:
        """Of equilateral triangles, mm."""
        return float(np.sqrt(4 / np.sqrt(3) * self.area / max(self.triangles, 1)))


@dataclass(frozen=True)
class Cost:
    """About what an operation will take and leave.

    Attributes
    ----------
    seconds : float
        On two cores.
    gigabytes : float
    triangles : int, optional
        How many there will be.
    detail : float, optional
        The detail size meant, mm.
    """

    seconds: float
    gigabytes: float
    triangles: int | None = None
    detail: float | None = None

    @property
    def text(self) -> str:
        """In one sentence, for a person."""
        long = f"{self.seconds:.0f} s" if self.seconds < 90 else f"{self.seconds / 60:.0f} minutes"
        takes = "a moment" if self.seconds < 1.5 else f"about {long}"
        takes += f" and {self.gigabytes:.1f} GB" if self.gigabytes >= 0.5 else ""
        if self.triangles is None:
            fine = f"At a detail size of {length_text(self.detail)} it" if self.detail else "It"
            return f"{fine} takes {takes}."
        size = stl_bytes(self.triangles) / 1e6
        told = f"{size:,.1f} MB" if size >= 1 else f"{size * 1000:,.0f} kB"
        leaves = f"about {_rounded(self.triangles):,} triangles, {told} as binary STL"
        return f"It leaves {leaves}, and takes {takes}."


def region_area(measures: Measures, spots: Sequence[Sequence[float]] | None) -> float:
    """About the area of a region, mm²: the whole without spots."""
    if not spots:
        return measures.area
    return min(measures.area, float(sum(np.pi * spot[3] ** 2 for spot in spots)))


def _rounded(count: int) -> int:
    """To three figures."""
    step = 10 ** max(0, len(str(count)) - 3)
    return round(count / step) * step
