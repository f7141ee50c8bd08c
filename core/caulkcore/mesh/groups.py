"""Things sorted into groups, without an object for each group."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from .arrays import Array


@dataclass(frozen=True, eq=False)
class Groups:
    """Items group after group, in compressed rows; no group is empty.

    Attributes
    ----------
    items : ndarray, shape (k, ...)
    starts : ndarray, shape (groups + 1,)
        Where each group begins in `items`.
    """

    items: Array
    starts: Array

    @classmethod
    def by_label(cls, label: Array, items: Array | None = None) -> "Groups":
        """Items with equal labels together, the groups in order of their labels.

        Parameters
        ----------
        label : ndarray, shape (k,), int
        items : ndarray, shape (k, ...), optional
            By default their positions.

        Returns
        -------
        Groups

        Examples
        --------
        >>> groups = Groups.by_label(np.array([7, 3, 7]))
        >>> [groups[i].tolist() for i in range(len(groups))]
        [[1], [0, 2]]
        """
        order = np.argsort(label, kind="stable")
        sorted_ = label[order]
        begins = np.flatnonzero(np.diff(sorted_, prepend=sorted_[:1] - 1))
        starts = np.append(begins, len(label))
        return cls(order if items is None else items[order], starts)

    def __len__(self) -> int:
        return len(self.starts) - 1

    def __getitem__(self, group: int) -> Array:
        return self.items[self.starts[group] : self.starts[group + 1]]

    @cached_property
    def sizes(self) -> Array:
        """Number of items in each group."""
        return np.diff(self.starts)

    def take(self, groups: Array) -> "Groups":
        """Some of the groups, in the order asked for.

        Parameters
        ----------
        groups : ndarray, shape (g,)
            Their numbers.

        Returns
        -------
        Groups
        """
        sizes = self.sizes[groups]
        starts = np.append(0, np.cumsum(sizes))
        within = np.arange(starts[-1]) - np.repeat(starts[:-1], sizes)
        return Groups(self.items[np.repeat(self.starts[:-1][groups], sizes) + within], starts)

    def of(self, groups: Array) -> Array:
        """The items of some groups, together.

        Parameters
        ----------
        groups : ndarray, shape (g,)
            Their numbers.

        Returns
        -------
        ndarray, shape (k, ...)
            In the order of `items`.
        """
        chosen = np.zeros(len(self), dtype=bool)
        chosen[groups] = True
        return self.items[np.repeat(chosen, self.sizes)]

    def reduce(self, how: Callable[..., Array], values: Array) -> Array:
        """A ufunc over the values of each group, `values` standing in the order of `items`.

        Parameters
        ----------
        how : ufunc
            Such as ``np.add``.
        values : ndarray, shape (k, ...)

        Returns
        -------
        ndarray, shape (groups, ...)
        """
        if not len(self):
            return np.zeros((0, *values.shape[1:]), dtype=values.dtype)
        return how.reduceat(values, self.starts[:-1], axis=0)  # type: ignore[attr-defined, no-any-return]

    def longest_sides(self, points: Array) -> Array:
        """Longest side of the bounding box of each group's points, shape (groups,).

        Parameters
        ----------
        points : ndarray, shape (k, c, 3)
            The points of each item.

        Returns
        -------
        ndarray, shape (groups,)
        """
        low = self.reduce(np.minimum, points.min(axis=1))
        high = self.reduce(np.maximum, points.max(axis=1))
        sides: Array = (high - low).max(axis=1, initial=0.0)
        return sides
