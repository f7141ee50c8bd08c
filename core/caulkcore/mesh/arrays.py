"""The one array type."""

import numpy as np

Array = np.ndarray


def frozen(values: Array, dtype: type) -> Array:
    """The array, or a copy in the right type and order, that cannot be written to.

    Kernels are compiled for each kind of array that they meet. What they are all given is frozen,
    so that they are compiled once.

    Parameters
    ----------
    values : ndarray, of any shape
    dtype : type
        Of the result.

    Returns
    -------
    ndarray
        Contiguous; a view that cannot be written to.
    """
    out: Array = np.ascontiguousarray(values, dtype=dtype).view()
    out.flags.writeable = False
    return out


def owned(values: Array, dtype: type) -> Array:
    """The array, or a copy, that nobody can write to: neither through it nor through what it views.

    Parameters
    ----------
    values : ndarray, of any shape
    dtype : type
        Of the result.

    Returns
    -------
    ndarray
        Contiguous and read-only; without copying if it is so already, and all that it views.

    Examples
    --------
    >>> given = np.zeros(3)
    >>> kept = owned(given, np.float64)
    >>> given[0] = 1.0
    >>> kept.tolist()
    [0.0, 0.0, 0.0]
    """
    out: Array = np.ascontiguousarray(values, dtype=dtype)
    base: object = out
    while isinstance(base, np.ndarray):
        if base.flags.writeable:
            out = out.copy()
            break
        base = base.base
    out.flags.writeable = False
    return out


def bounds_of(points: Array) -> Array:
    """Least and greatest corner of the box round some points, shape (2, 3).

    Column by column: along the first axis of an array with three columns NumPy is ten times slower.

    Parameters
    ----------
    points : ndarray, shape (n, 3)

    Returns
    -------
    ndarray, shape (2, 3)
    """
    return np.array([[column.min(), column.max()] for column in points.T]).T
