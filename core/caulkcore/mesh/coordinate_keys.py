"""Keys of 64 bits for points, and sets of such keys.

Two different points have the same key once in some 10^19 times: that is not asked about.
"""

import numpy as np

from ..jit import nb
from .arrays import Array, frozen


@nb.njit(cache=True)
def mixed(x: int) -> int:
    """Spread every bit over all others (the finaliser of splitmix64, Steele et al. 2014).

    Parameters
    ----------
    x : uint64

    Returns
    -------
    uint64
    """
    x = np.uint64(x + np.uint64(0x9E3779B97F4A7C15))
    x = np.uint64((x ^ (x >> np.uint64(30))) * np.uint64(0xBF58476D1CE4E5B9))
    x = np.uint64((x ^ (x >> np.uint64(27))) * np.uint64(0x94D049BB133111EB))
    return np.uint64(x ^ (x >> np.uint64(31)))


@nb.njit(cache=True)
def _point_keys(bits: Array) -> Array:
    """See `point_keys`; `bits` are the coordinates as whole numbers."""
    out = np.empty(len(bits), np.uint64)
    for i in range(len(bits)):
        key = np.uint64(0)
        for k in range(3):
            key = mixed(np.uint64(key ^ bits[i, k]))
        out[i] = key
    return out


@np.errstate(over="ignore")  # interpreted, hashes wrap around as compiled ones do
def point_keys(points: Array) -> Array:
    """A key for each point from its coordinates; minus zero equals zero.

    Parameters
    ----------
    points : ndarray, shape (n, 3), float64

    Returns
    -------
    ndarray, shape (n,), uint64

    Examples
    --------
    >>> one, other, third = point_keys(np.array([[0.0, 1, 2], [-0.0, 1, 2], [1, 0, 2]]))
    >>> bool(one == other), bool(one == third)
    (True, False)
    """
    return _point_keys((points + 0.0).view(np.uint64))


@nb.njit(cache=True)
def _slot(table: Array, used: Array, key: int, mask: int) -> int:
    """Where a key stands in a hash table with linear probing, or would be put."""
    slot = key & mask
    while used[slot] and table[slot] != key:
        slot = np.uint64(np.uint64(slot + np.uint64(1)) & mask)
    return slot


@nb.njit(cache=True)
def _filled(keys: Array, room: int) -> tuple[Array, Array]:
    """A hash table of keys; `room` is a power of two above their number."""
    mask = np.uint64(room - 1)
    table, used = np.empty(room, np.uint64), np.zeros(room, np.bool_)
    for key in keys:
        slot = _slot(table, used, key, mask)
        table[slot], used[slot] = key, True
    return table, used


@nb.njit(cache=True, parallel=True)
def _found(keys: Array, table: Array, used: Array) -> Array:
    mask = np.uint64(len(table) - 1)
    out = np.empty(len(keys), np.bool_)
    for i in nb.prange(len(keys)):
        out[i] = used[_slot(table, used, keys[i], mask)]
    return out


def among(keys: Array, others: Array) -> Array:
    """Whether each key is among others.

    Parameters
    ----------
    keys : ndarray, shape (k,), uint64
        Well spread, as `point_keys` makes them.
    others : ndarray, shape (n,), uint64

    Returns
    -------
    ndarray, shape (k,), bool
    """
    return _found(frozen(keys, np.uint64), *_filled(frozen(others, np.uint64), _room(len(others))))


@nb.njit(cache=True)
def _with_ranks(keys: Array, room: int) -> Array:
    """See `with_ranks`; `room` as of `_filled`."""
    mask = np.uint64(room - 1)
    table, times = np.empty(room, np.uint64), np.zeros(room, np.uint64)
    out = np.empty(len(keys), np.uint64)
    for i in range(len(keys)):
        slot = _slot(table, times, keys[i], mask)
        table[slot] = keys[i]
        out[i] = mixed(np.uint64(keys[i] + times[slot])) if times[slot] else keys[i]
        times[slot] = np.uint64(times[slot] + np.uint64(1))
    return out


@np.errstate(over="ignore")  # interpreted, hashes wrap around as compiled ones do
def with_ranks(keys: Array) -> Array:
    """Keys that tell copies apart: the second of a kind gets another key, and so on.

    Parameters
    ----------
    keys : ndarray, shape (k,), uint64

    Returns
    -------
    ndarray, shape (k,), uint64
        The same for the first of each kind.
    """
    return _with_ranks(frozen(keys, np.uint64), _room(len(keys)))


def _room(n: int) -> int:
    """Size of a hash table for `n` keys: at most half full."""
    return 1 << (2 * n + 1).bit_length()
