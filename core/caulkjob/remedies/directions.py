"""Directions as people give them."""

from collections.abc import Sequence

import numpy as np
from caulkcore.errors import OperationRefused
from caulkcore.mesh.arrays import Array


def unit_vector(way: Sequence[float], name: str) -> Array:
    """A direction one long.

    Parameters
    ----------
    way : sequence of float
        x, y and z, of any length.
    name : str
        What it is called if it is refused.

    Returns
    -------
    ndarray, shape (3,)

    Raises
    ------
    OperationRefused
        If it has no length.

    Examples
    --------
    >>> unit_vector((0.0, 3.0, 4.0), "The axis").tolist()
    [0.0, 0.6, 0.8]
    """
    vector = np.asarray(way, dtype=np.float64)
    length = float(np.linalg.norm(vector))
    if length == 0:
        raise OperationRefused(f"{name} has no direction.")
    unit: Array = vector / length
    return unit
