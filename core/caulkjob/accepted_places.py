"""What a person has accepted, place by place, and whether that still holds for what is found now.

A place that was accepted is kept as it was found: in the form of `findings.finding.Place.as_json`.
"""

from collections.abc import Iterable, Sequence
from typing import Any

import numpy as np
from caulkcore.mesh.arrays import Array

from .questions import THIN

Spot = dict[str, Any]
"""A place as the report tells it."""

POSITION_MM = 0.5
"""How far a place may have moved, each way, mm: a wall is found again on new samples, which stand
half a limit apart."""
POSITION_SHARE = 0.02
"""The same as a share of the diagonal of the place's box, for large places."""
MEASURE_MM = 0.01
"""How much thinner or narrower a place may have become, mm: what a sheet's numbers are told to."""
MEASURE_SHARE = 0.01
"""How much any other measure may have changed."""

_AT_ONCE = 64
"""Acceptances that are held against all places at once: some megabytes for thousands of these."""

LESS_IS_WORSE = (*THIN, "thin-necks", "narrow-gaps", "near-gaps")
"""Kinds that are measured by a width: more of it is no new question."""
STAYS_APART = "stays-apart"
"""The kind of a decision that pieces are not united with others; its places are pieces."""
MAY_OVERLAP = ("overlapping-shells",)
"""Leaks that a person may leave, by deciding that one of the two pieces stays apart."""


def still_fits(kind: str, accepted: Spot, found: Spot) -> bool:
    """Whether a place that is found now is one that was accepted before.

    It must lie where that one lay, within `POSITION_MM` or `POSITION_SHARE`; a width must not be
    less than it was, and be asked to be no more; any other measure must be the same within
    `MEASURE_SHARE`. A line that stands for many places fits if there are no more of them.

    Parameters
    ----------
    kind : str
        Of the finding.
    accepted, found : dict
        The places, as `Place.as_json` tells them.

    Returns
    -------
    bool

    Examples
    --------
    >>> wall = {"box": [[0, 0, 0], [9, 9, 1]], "value": 0.6, "limit_mm": 0.8, "stands_for": 1}
    >>> still_fits("thin-walls", wall, wall), still_fits("thin-walls", wall, {**wall, "value": 0.5})
    (True, False)
    """
    return bool(_fits(kind, [accepted], [found])[0, 0])


def answered(kind: str, found: Sequence[Spot], accepted: Sequence[Spot]) -> list[int | None]:
    """Which acceptance, if any, each place is covered by.

    Each acceptance covers one place at most, the nearest that it fits.

    Parameters
    ----------
    kind : str
        Of the finding.
    found : sequence of dict
        Its places.
    accepted : sequence of dict
        The places accepted of this kind.

    Returns
    -------
    list of int or None
        For each place the index of its acceptance.

    Examples
    --------
    >>> def void(x):
    ...     return {"box": [[x, 0, 0], [x + 2, 2, 2]], "value": 2.0, "stands_for": 1}
    >>> answered("sealed-voids", [void(0), void(30)], [void(30)])
    [None, 0]
    """
    covered: list[int | None] = [None] * len(found)
    # most are the very places that were accepted
    same: dict[tuple[Any, ...], list[int]] = {}
    for row in range(len(accepted) - 1, -1, -1):
        same.setdefault(_identity(accepted[row]), []).append(row)
    for column, spot in enumerate(found):
        rows_of = same.get(_identity(spot))
        if rows_of:
            covered[column] = rows_of.pop()
    used = set(covered)
    rest = np.array([row for row in range(len(accepted)) if row not in used], dtype=int)
    open_ = np.array([i for i, by in enumerate(covered) if by is None], dtype=int)
    if not len(rest) or not len(open_):
        return covered
    pairs = _fitting_pairs(kind, [accepted[i] for i in rest], [found[i] for i in open_])
    for row, column in pairs:
        if int(rest[row]) not in used and covered[open_[column]] is None:
            covered[open_[column]] = int(rest[row])
            used.add(int(rest[row]))
    return covered


def _identity(spot: Spot) -> tuple[Any, ...]:
    low, high = spot["box"]
    told = (spot.get("value"), spot.get("limit_mm"), spot.get("stands_for", 1))
    return (*low, *high, *told)


def _fitting_pairs(
    kind: str, accepted: Sequence[Spot], found: Sequence[Spot]
) -> list[tuple[int, int]]:
    """Pairs of an acceptance and a place that fits, the nearest first."""
    rows, columns = [], []
    for start in range(0, len(accepted), _AT_ONCE):
        row, column = np.nonzero(_fits(kind, accepted[start : start + _AT_ONCE], found))
        rows.append(row + start)
        columns.append(column)
    row, column = np.concatenate(rows), np.concatenate(columns)
    away = np.linalg.norm(_middles(accepted)[row] - _middles(found)[column], axis=1)
    order = np.argsort(away, kind="stable")
    return list(zip(row[order].tolist(), column[order].tolist(), strict=True))


def left_open(
    findings: Iterable[dict[str, Any]],
    accepted: dict[str, list[Spot]],
    *,
    apart: Iterable[int] = (),
) -> list[dict[str, Any]]:
    """Findings that still stand in the way of a release.

    An overlap is covered when one of its pieces stays apart, and by nothing else.

    Parameters
    ----------
    findings : iterable of dict
        As `Finding.as_json` tells them, with their places as ``spots``.
    accepted : dict of str to list of dict
        Places accepted, by kind.
    apart : iterable of int
        Shells that stay apart.

    Returns
    -------
    list of dict
        Each with ``open``, the indices of its places that nothing covers.

    Examples
    --------
    >>> hole = {"kind": "open-edges", "severity": "leak", "spots": [{}]}
    >>> [one["open"] for one in left_open([hole], {})]
    [[0]]
    """
    kept = set(apart)
    told = []
    for one in findings:
        kind, spots = one["kind"], one["spots"]
        if one["severity"] == "note":
            continue
        if kind in MAY_OVERLAP:
            rest = [i for i, s in enumerate(spots) if not kept.intersection(s.get("pieces", ()))]
        elif one["severity"] == "leak":
            rest = list(range(len(spots)))
        else:
            covered = answered(kind, spots, accepted.get(kind, []))
            rest = [i for i, by in enumerate(covered) if by is None]
        if rest:
            told.append({**one, "open": rest})
    return told


def _column(spots: Sequence[Spot], name: str, without: float) -> Array:
    return np.array([without if s.get(name) is None else s[name] for s in spots], dtype=float)


def _boxes(spots: Sequence[Spot]) -> Array:
    return np.array([s["box"] for s in spots], dtype=float)


def _middles(spots: Sequence[Spot]) -> Array:
    return np.asarray(_boxes(spots).mean(axis=1))


def _fits(kind: str, accepted: Sequence[Spot], found: Sequence[Spot]) -> Array:
    """For each acceptance and each place whether it fits, shape (accepted, found)."""
    then, now = _boxes(accepted)[:, None], _boxes(found)[None]
    room = np.maximum(
        POSITION_MM, POSITION_SHARE * np.linalg.norm(then[:, :, 1] - then[:, :, 0], axis=2)
    )[:, :, None]
    value_then = _column(accepted, "value", np.nan)[:, None]
    value_now = _column(found, "value", np.nan)[None]
    unmeasured = np.isnan(value_then) & np.isnan(value_now)
    if kind in LESS_IS_WORSE:
        # what was mended in part lies within the place that was accepted
        there = (now[:, :, 0] >= then[:, :, 0] - room).all(axis=2)
        there &= (now[:, :, 1] <= then[:, :, 1] + room).all(axis=2)
        slack = np.maximum(MEASURE_MM, MEASURE_SHARE * value_then)
        same = value_now >= value_then - slack
        limit_then = _column(accepted, "limit_mm", 0.0)[:, None]
        same &= _column(found, "limit_mm", 0.0)[None] <= limit_then + MEASURE_MM
    else:
        there = (np.abs(now - then) <= room[:, :, None]).all(axis=(2, 3))
        same = np.abs(value_now - value_then) <= MEASURE_SHARE * np.abs(value_then)
    many_then = _column(accepted, "stands_for", 1)[:, None]
    many_now = _column(found, "stands_for", 1)[None]
    as_many = np.where(many_then > 1, (many_now > 1) & (many_now <= many_then), many_now == 1)
    return np.asarray(there & (same | unmeasured) & as_many)
