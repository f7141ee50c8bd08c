"""Which places of a finding a remedy is to touch."""

from collections.abc import Collection

import numpy as np
from caulkcore.errors import OperationRefused
from caulkcore.mesh.arrays import Array

from .findings.finding import Finding, Place
from .findings.places import LISTED


def chosen_places(finding: Finding | None, places: Collection[int] | None) -> list[Place]:
    """The places of a finding, or those of the given numbers (counted from 1).

    Parameters
    ----------
    finding : Finding or None
    places : collection of int, or None
        Numbers from 1; all by default.

    Returns
    -------
    list of Place

    Raises
    ------
    OperationRefused
        If a number is not among them.
    """
    if finding is None:
        if places:
            raise OperationRefused("There is nothing of this kind at all in this revision.")
        return []
    if places is None:
        return list(finding.places)
    _check(places, len(finding.places))
    return [finding.places[n - 1] for n in sorted(set(places))]


def chosen_numbers(order: Array, places: Collection[int] | None) -> Array:
    """As `chosen_places`, of things that a finding lists in this order.

    Parameters
    ----------
    order : ndarray, shape (k,)
        Numbers of the things, in the finding's order.
    places : collection of int, or None
        Numbers from 1; all by default.

    Returns
    -------
    ndarray, shape (j,)

    Raises
    ------
    OperationRefused
        If a number is not among them.
    """
    if places is None:
        return order
    _check(places, min(len(order), LISTED + 1))
    singly = [n - 1 for n in sorted(set(places)) if n <= LISTED]
    others = range(LISTED, len(order) if LISTED + 1 in places else LISTED)
    return order[[*singly, *others]]


def _check(places: Collection[int], count: int) -> None:
    wrong = [n for n in places if not 1 <= n <= count]
    if wrong:
        raise OperationRefused(f"There is no place {wrong[0]}; this finding has {count}.")


def faces_of(places: list[Place]) -> Array:
    """All faces of some places.

    Parameters
    ----------
    places : list of Place

    Returns
    -------
    ndarray, shape (k,)
    """
    return np.concatenate([p.faces for p in places]) if places else np.zeros(0, dtype=np.int32)


def lines_of(places: list[Place]) -> Array:
    """All edges of some places, as pairs of vertices.

    Parameters
    ----------
    places : list of Place

    Returns
    -------
    ndarray, shape (k, 2)
    """
    return np.concatenate([p.lines for p in places]) if places else np.zeros((0, 2), np.int32)
