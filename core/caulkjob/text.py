"""Numbers with their nouns and units, as every sentence writes them."""

import math
import re
from collections.abc import Iterable

_TOLD = 1e6
"""Bounds are told to a millionth of a millimetre."""
_NOISE = 1e-9
"""mm: less than that comes from the numbers' own rounding."""


def counted(n: int, one: str, many: str | None = None) -> str:
    """A number with its noun.

    Parameters
    ----------
    n : int
    one : str
        The noun for one of them.
    many : str, optional
        For several; `one` with an s by default.

    Returns
    -------
    str

    Examples
    --------
    >>> counted(1, "hole"), counted(1200, "vertex", "vertices")
    ('1 hole', '1,200 vertices')
    """
    return f"{n:,} {one if n == 1 else many or one + 's'}"


def length_text(mm: float) -> str:
    """A length as the interface writes it: one decimal, more where it would vanish.

    Parameters
    ----------
    mm : float

    Returns
    -------
    str

    Examples
    --------
    >>> length_text(6.24), length_text(0.0042)
    ('6.2 mm', '0.004 mm')
    """
    if mm >= 0.1 or mm == 0:
        return f"{mm:,.1f} mm"
    return f"{mm:.3f} mm" if mm >= 0.001 else "under 0.001 mm"


def shortfall_text(found: float, asked: float) -> str:
    """A thickness against what is asked for; what is less never reads as the same.

    Parameters
    ----------
    found, asked : float
        mm.

    Returns
    -------
    str

    Examples
    --------
    >>> shortfall_text(0.42, 0.6), shortfall_text(2.9984, 3.0)
    ('0.42 of 0.60 mm', '2.998 of 3.00 mm')
    """
    told, least = f"{found:.2f}", f"{asked:.2f}"
    if found < asked and told == least:
        told = f"{found:.3f}" if asked - found >= 0.0005 else f"just under {least}"
    return f"{told} of {least} mm"


def volume_text(mm3: float) -> str:
    """A volume as the interface writes it.

    Parameters
    ----------
    mm3 : float

    Returns
    -------
    str

    Examples
    --------
    >>> volume_text(28312.4), volume_text(1.5)
    ('28.31 cm³', '1.50 mm³')
    """
    if 0 < mm3 < 0.005:
        return "under 0.01 mm³"
    return f"{mm3 / 1000:,.2f} cm³" if mm3 >= 10 else f"{mm3:.2f} mm³"


def area_text(mm2: float) -> str:
    """An area as the interface writes it.

    Parameters
    ----------
    mm2 : float

    Returns
    -------
    str

    Examples
    --------
    >>> area_text(1234.0), area_text(1.5)
    ('12.3 cm²', '1.50 mm²')
    """
    return f"{mm2 / 100:,.1f} cm²" if mm2 >= 10 else f"{mm2:.2f} mm²"


def place_text(at: Iterable[float]) -> str:
    """A place as sentences name it.

    Parameters
    ----------
    at : iterable of float
        x, y, z, mm.

    Returns
    -------
    str

    Examples
    --------
    >>> place_text((1.25, -3.0, 40.04))
    '1.2, -3.0, 40.0'
    """
    return ", ".join(f"{x:.1f}" for x in at)


_PLACE = re.compile(r",? at (-?\d+\.\d, ){2}-?\d+\.\d")
"""A place as `place_text` writes it, with the word before it."""


def without_places(sentence: str) -> str:
    """A sentence without the coordinates in it, which say nothing to a customer.

    Parameters
    ----------
    sentence : str

    Returns
    -------
    str

    Examples
    --------
    >>> without_places("A sheet is torn; the worst of 3 such places, at 3.0, 0.0, -0.5.")
    'A sheet is torn; the worst of 3 such places.'
    """
    return _PLACE.sub("", sentence)


def told_down(mm: float) -> float:
    """A lower bound as it is told: rounded down, so that it stays one.

    Parameters
    ----------
    mm : float

    Returns
    -------
    float
    """
    return math.floor(mm * _TOLD) / _TOLD


def told_up(mm: float) -> float:
    """An upper bound as it is told: rounded up, but not for what rounding of numbers may do.

    Parameters
    ----------
    mm : float

    Returns
    -------
    float

    Examples
    --------
    >>> told_down(2.00000049), told_up(2.00000049), told_up(2.0000000001)
    (2.0, 2.000001, 2.0)
    """
    return math.ceil((mm - _NOISE) * _TOLD) / _TOLD if mm > _NOISE else 0.0
