"""The plane that lies nearest to some points."""

import numpy as np

from .arrays import Array

_AXIS = 1e-6
"""A normal that differs from an axis by less in each coordinate is that axis."""


def fitted_plane(points: Array) -> tuple[Array, Array]:
    """The plane from which points are least far in the mean of squares.

    Parameters
    ----------
    points : ndarray, shape (k, 3)
        Through fewer than three, one of the planes that they lie in.

    Returns
    -------
    at : ndarray, shape (3,)
        Their middle.
    normal : ndarray, shape (3,)
        Unit; an axis itself where it differs from one by rounding only.

    Examples
    --------
    >>> fitted_plane(np.array([[0.0, 0, 7], [1, 0, 7], [0, 1, 7]]))[1].tolist()
    [0.0, 0.0, 1.0]
    """
    at = points.mean(axis=0)
    # fewer than three leave directions open, which only the whole matrix names
    *_, rows = np.linalg.svd(points - at, full_matrices=len(points) < 3)
    return at, exact_axis(rows[2])


def exact_axis(normal: Array) -> Array:
    """An axis itself where a unit normal differs from it by rounding only.

    Parameters
    ----------
    normal : ndarray, shape (3,)

    Returns
    -------
    ndarray, shape (3,)
    """
    nearest = np.rint(normal)
    return nearest if np.abs(normal - nearest).max() < _AXIS else normal
