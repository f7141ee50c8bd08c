"""What a remeshing will take and leave, told before it runs from a few measures of a mesh."""

from dataclasses import dataclass

import numpy as np

from ..errors import OperationRefused
from ..spatial.face_region import Spots

EQUILATERAL = 0.43
"""Area of an equilateral triangle, as a share of its edge squared: the square root of 3 over 4."""


@dataclass(frozen=True)
class MeshMeasures:
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
        """Mean edge if all triangles were equilateral, mm."""
        return float(np.sqrt(4 / np.sqrt(3) * self.area / max(self.triangles, 1)))


@dataclass(frozen=True)
class Estimate:
    """About what a remeshing will take and leave.

    Attributes
    ----------
    seconds : float
        On two cores.
    gigabytes : float
        Peak memory.
    triangles : int, optional
        How many there will be, if that is known.
    detail : float, optional
        The voxel size meant, mm.
    """

    seconds: float
    gigabytes: float
    triangles: int | None = None
    detail: float | None = None


def too_fine(size: float, most: int, least: float) -> OperationRefused:
    """The refusal of edges so short that there would be too many triangles.

    Parameters
    ----------
    size : float
        What was asked for, mm.
    most : int
        Triangles that there may be.
    least : float
        About the shortest that would do, mm.

    Returns
    -------
    OperationRefused
    """
    return OperationRefused(
        f"Edges of {size:.3g} mm would take more than {most:,} triangles; "
        f"{least:.3g} mm is about the least here."
    )


def region_area(measures: MeshMeasures, spots: Spots | None) -> float:
    """About the area of a region, mm²: that of discs of the spots' radii, at most the whole.

    Parameters
    ----------
    measures : MeshMeasures
    spots : sequence of (x, y, z, radius), or None
        mm; the whole without spots.

    Returns
    -------
    float

    Examples
    --------
    >>> round(region_area(MeshMeasures(1000, 500.0, 20.0), [[0, 0, 0, 2.0]]), 2)
    12.57
    """
    if not spots:
        return measures.area
    return min(measures.area, float(sum(np.pi * spot[3] ** 2 for spot in spots)))
