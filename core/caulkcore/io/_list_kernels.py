"""Walking binary records that hold lists of varying length."""

import numpy as np

from ..jit import nb
from ..mesh.arrays import Array


@nb.njit(cache=True)
def _unsigned(data: Array, at: int, size: int, big_endian: bool) -> int:
    value = np.int64(0)
    for k in range(size):
        byte = data[at + k] if big_endian else data[at + size - 1 - k]
        value = value * 256 + np.int64(byte)
    return value


@nb.njit(cache=True)
def walk_lists(  # type: ignore[no-untyped-def]
    data: Array,
    start: int,
    records: int,
    sizes: Array,
    count_sizes: Array,
    wanted: int,
    big_endian: bool,
):
    """Find one list in each of many records.

    Parameters
    ----------
    data : ndarray of uint8
    start : int
        Where the first record begins.
    records : int
    sizes, count_sizes : ndarray
        Bytes of each property's values, and of its count; 0 if it is no list.
    wanted : int
        The property to find.
    big_endian : bool

    Returns
    -------
    offsets, counts : ndarray of int64
        Where the wanted list's values begin and how many there are.
    end : int
        Where the records end; -1 if the data end before.
    """
    offsets = np.empty(records, dtype=np.int64)
    counts = np.empty(records, dtype=np.int64)
    at = np.int64(start)
    for r in range(records):
        for p in range(len(sizes)):
            n = np.int64(1)
            if count_sizes[p] > 0:
                if at + count_sizes[p] > len(data):
                    return offsets, counts, -1
                n = _unsigned(data, at, count_sizes[p], big_endian)
                at += count_sizes[p]
            if n * sizes[p] > len(data) - at:
                return offsets, counts, -1
            if p == wanted:
                offsets[r] = at
                counts[r] = n
            at += n * sizes[p]
    return offsets, counts, at
