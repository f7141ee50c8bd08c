"""Sets of faces told by runs: where each run begins, and how many faces it has."""

from collections.abc import Sequence

import numpy as np

from .arrays import Array


def runs_of_faces(chosen: Array) -> list[int]:
    """The runs of a set of faces: first, count, first, count, and so on.

    Parameters
    ----------
    chosen : ndarray, shape (m,), bool

    Returns
    -------
    list of int

    Examples
    --------
    >>> runs_of_faces(np.array([False, True, True, False, True]))
    [1, 2, 4, 1]
    """
    steps = np.diff(np.concatenate([[False], chosen, [False]]).astype(np.int8))
    first, end = np.flatnonzero(steps == 1), np.flatnonzero(steps == -1)
    return [int(x) for x in np.stack([first, end - first], axis=1).ravel()]


def faces_of_runs(runs: Sequence[int], count: int) -> Array:
    """Whether each of some faces is in a set told by runs, shape (count,).

    Parameters
    ----------
    runs : sequence of int
        As of `runs_of_faces`.
    count : int
        Number of faces of the mesh.

    Returns
    -------
    ndarray, shape (count,), bool

    Raises
    ------
    ValueError
        If a run is empty, overlaps the one before or names a face that is not there.

    Examples
    --------
    >>> faces_of_runs([1, 2, 4, 1], 5).tolist()
    [False, True, True, False, True]
    """
    pairs = np.array(runs, dtype=np.int64).reshape(-1, 2)
    first, end = pairs[:, 0], pairs.sum(axis=1)
    ordered = (first[1:] >= end[:-1]).all()
    if len(pairs) and not (ordered and first[0] >= 0 and (end > first).all() and end[-1] <= count):
        raise ValueError("runs must be in order and name faces that are there")
    steps = np.zeros(count + 1, dtype=np.int64)
    np.add.at(steps, first, 1)
    np.add.at(steps, end, -1)
    return np.cumsum(steps[:-1]) > 0
