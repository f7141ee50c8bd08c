"""The unit of a file, and the guess for files that carry none."""

from dataclasses import dataclass

import numpy as np
from caulkcore.io.document import MeshDocument
from caulkcore.io.units import MILLIMETRES

UNIT_NAMES = {"mm": "millimetres", "cm": "centimetres", "m": "metres", "in": "inches", "ft": "feet"}
"""What a person calls several of each unit."""

SMALLEST_PLAUSIBLE = 10.0
"""Longest side in mm below which a print is suspiciously small."""
LARGEST_PLAUSIBLE = 400.0
"""Longest side in mm of the largest machine's build volume."""


@dataclass(frozen=True)
class UnitGuess:
    """A unit and why it was taken.

    Attributes
    ----------
    unit : str
        Key of `MILLIMETRES`.
    source : str
        ``"guessed"``, ``"file"`` or ``"given"``.
    reason : str
        One sentence for a person.
    doubtful : bool
        Whether a person should confirm it.
    others : tuple of str
        Other units under which the model would have a plausible size.
    """

    unit: str
    source: str
    reason: str
    doubtful: bool = False
    others: tuple[str, ...] = ()


GIVEN = UnitGuess("mm", "given", "Taken as millimetres.")
"""For meshes that are in millimetres already."""


def guess_unit(size: np.ndarray) -> UnitGuess:
    """Guess the unit of coordinates that carry none.

    The rule: millimetres, because most files for printing are, unless the longest side is below
    1; then the coarsest reading that gives a part between `SMALLEST_PLAUSIBLE` and
    `LARGEST_PLAUSIBLE`. A longest side outside these limits makes the guess doubtful.

    Parameters
    ----------
    size : ndarray, shape (3,)
        Extent of the coordinates as they stand in the file.

    Returns
    -------
    UnitGuess

    Examples
    --------
    >>> guess_unit(np.array([40.0, 20.0, 5.0])).unit
    'mm'
    """
    longest = float(np.max(size))
    plausible = tuple(
        unit
        for unit, factor in MILLIMETRES.items()
        if SMALLEST_PLAUSIBLE <= longest * factor <= LARGEST_PLAUSIBLE
    )
    number = f"{longest:.3g}"
    if longest >= 1.0 or not plausible:
        others = tuple(u for u in plausible if u != "mm")
        if "mm" in plausible:
            return UnitGuess("mm", "guessed", f"{number} long reads well as millimetres.")
        if longest * MILLIMETRES["mm"] < SMALLEST_PLAUSIBLE:
            why = f"{number} long would be a very small part in millimetres"
        else:
            why = f"{number} long is more than the largest machine takes, if it is millimetres"
        if others:
            why += "; " + ", ".join(
                f"{longest * MILLIMETRES[u]:.0f} mm if it is {UNIT_NAMES[u]}" for u in others
            )
        return UnitGuess("mm", "guessed", why + ".", True, others)
    best = "m" if "m" in plausible else plausible[-1]
    others = tuple(u for u in plausible if u != best)
    return UnitGuess(
        best,
        "guessed",
        f"{number} long cannot be millimetres; as {UNIT_NAMES[best]} it is "
        f"{longest * MILLIMETRES[best]:.0f} mm.",
        True,
        ("mm", *others),
    )


def unit_of(document: MeshDocument) -> UnitGuess:
    """The unit that a file names, or the guess.

    Parameters
    ----------
    document : MeshDocument

    Returns
    -------
    UnitGuess
    """
    if document.unit is None:
        return guess_unit(document.mesh.size)
    return UnitGuess(document.unit, "file", f"The file says {document.unit_name}.")
