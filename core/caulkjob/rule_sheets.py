"""Rule sheets: what a material on a process demands of a part."""

import json
import re
from dataclasses import asdict, dataclass, fields
from functools import cache
from pathlib import Path
from typing import Any

from caulkcore.errors import RefusedInput


@dataclass(frozen=True)
class Demand:
    """One number of a rule sheet.

    Attributes
    ----------
    name : str
        Of the sheet's attribute.
    title, about, unit : str
        For a person.
    least, most : float
    """

    name: str
    title: str
    about: str
    unit: str = "mm"
    least: float = 0.0
    most: float = 100.0


DEMANDS = (
    Demand("wall_supported", "Wall, held", "held on two sides or more"),
    Demand("wall_free", "Wall, free", "standing free, held on one side"),
    Demand("wire_supported", "Wire, held", "about as wide as thick, held at both ends"),
    Demand("wire_free", "Wire, free", "about as wide as thick, held at one end"),
    Demand("engraved", "Engraved detail", "least width and depth of what is cut in"),
    Demand("embossed", "Embossed detail", "least width and height of what stands out"),
    Demand("clearance", "Clearance", "least gap between parts that are to move"),
    Demand("drain_hole", "Drain hole, only one", "least diameter"),
    Demand("drain_holes", "Drain hole, of several", "least diameter"),
    Demand("tolerance", "Tolerance", "how far a printed part may be off"),
    Demand("smallest", "Smallest part", "least longest side"),
    Demand("density_g_cm3", "Density", "for the weight", "g/cm³", 0.01, 30.0),
    Demand("price_per_cm3", "Price a cm³", "of material", "", 0.0, 10_000.0),
    Demand("price_per_part", "Price a part", "for handling", "", 0.0, 100_000.0),
)
"""All numbers but the sides of the largest part."""
_SIDE = Demand("largest", "Largest part", "greatest sides", "mm", 1.0, 10_000.0)
"""Each side of the largest part."""
_KEY = re.compile(r"[a-z0-9]+(-[a-z0-9]+)*")
"""Keys: small letters, digits, hyphens between them."""
_LONGEST_NAME = 80
"""Letters that a name may have."""


@dataclass(frozen=True)
class RuleSheet:
    """Demands of one material on one process; lengths in mm.

    Attributes
    ----------
    key, name, process : str
    wall_supported, wall_free : float
        Least wall that is held on two sides or more, and one that stands free.
    wire_supported, wire_free : float
        Least thickness of what is about as wide as thick, held at both ends or at one.
    engraved, embossed : float
        Least detail cut in, and standing out.
    clearance : float
        Least gap between parts that are to move.
    drain_hole, drain_holes : float
        Least diameter of a hole to empty a hollow by, if it is the only one, and if there are
        several.
    smallest : float
        Least longest side.
    largest : tuple of float
        Greatest sides.
    must_drain : bool
        Whether a hollow has to be emptied.
    density_g_cm3, price_per_cm3, price_per_part : float
    tolerance : float
    """

    key: str
    name: str
    process: str
    wall_supported: float
    wall_free: float
    wire_supported: float
    wire_free: float
    engraved: float
    embossed: float
    clearance: float
    drain_hole: float
    drain_holes: float
    smallest: float
    largest: tuple[float, float, float]
    must_drain: bool
    density_g_cm3: float
    price_per_cm3: float
    price_per_part: float
    tolerance: float

    def wall_limit(self, free_standing: bool, wire: bool) -> float:
        """The least thickness of a wall or wire of this kind.

        Parameters
        ----------
        free_standing, wire : bool

        Returns
        -------
        float
            mm; 0 where the material asks for nothing.
        """
        if wire:
            return self.wire_free if free_standing else self.wire_supported
        return self.wall_free if free_standing else self.wall_supported

    def refuse_contradictions(self) -> None:
        """Refuse demands that contradict each other.

        What stands free needs no less than what is held.

        Raises
        ------
        RefusedInput

        Examples
        --------
        >>> usual_rule_sheet("sintered-nylon").refuse_contradictions()
        """
        for held, free in (("wall_supported", "wall_free"), ("wire_supported", "wire_free")):
            least, most = getattr(self, held), getattr(self, free)
            if least > most:
                titles = {one.name: one.title for one in DEMANDS}
                raise RefusedInput(
                    f"“{titles[held]}” ({least:g} mm) must not be more than “{titles[free]}” "
                    f"({most:g} mm): what stands free needs no less than what is held."
                )

    def as_json(self) -> dict[str, Any]:
        """All of it as plain values.

        Returns
        -------
        dict of str to value
        """
        return {**asdict(self), "largest": list(self.largest)}

    @classmethod
    def from_json(cls, given: dict[str, Any]) -> "RuleSheet":
        """The sheet of plain values.

        Parameters
        ----------
        given : dict

        Returns
        -------
        RuleSheet

        Raises
        ------
        RefusedInput
            If a value is missing, unknown, or out of its limits.
        """
        if not isinstance(given, dict):
            raise RefusedInput("A rule sheet is an object of named values.")
        known = {f.name for f in fields(cls)}
        for name in sorted(known ^ given.keys()):
            raise RefusedInput(f"A rule sheet {'lacks' if name in known else 'has no'} “{name}”.")
        for name in ("key", "name", "process"):
            text = given[name]
            if not isinstance(text, str) or not 0 < len(text.strip()) <= _LONGEST_NAME:
                raise RefusedInput(f"“{name}” must be a text of 1 to {_LONGEST_NAME} letters.")
        if not _KEY.fullmatch(given["key"]):
            raise RefusedInput("“key” may have small letters, digits and hyphens between them.")
        sides = given["largest"]
        if not isinstance(sides, list | tuple) or len(sides) != 3:
            raise RefusedInput("“Largest part” must be three sides.")
        numbers = [(one, given[one.name]) for one in DEMANDS] + [(_SIDE, x) for x in sides]
        for one, value in numbers:
            is_number = isinstance(value, int | float) and not isinstance(value, bool)
            if not is_number or not one.least <= value <= one.most:
                limits = f"from {one.least:g} to {one.most:g} {one.unit}".rstrip()
                raise RefusedInput(f"“{one.title}” ({one.name}) must be {limits}.")
        if not isinstance(given["must_drain"], bool):
            raise RefusedInput("“must_drain” must be true or false.")
        return cls(**{**given, "largest": tuple(float(s) for s in sides)})


@cache
def usual_rule_sheets() -> dict[str, RuleSheet]:
    """The sheets that ship with the product, by key.

    Returns
    -------
    dict of str to RuleSheet
    """
    text = Path(__file__).with_name("rule_sheets.json").read_text(encoding="utf-8")
    return {one["key"]: RuleSheet.from_json(one) for one in json.loads(text)}


def usual_rule_sheet(key: str) -> RuleSheet:
    """The shipped sheet of a material.

    Parameters
    ----------
    key : str

    Returns
    -------
    RuleSheet

    Raises
    ------
    RefusedInput
        If there is none; the message says which there are.

    Examples
    --------
    >>> usual_rule_sheet("sintered-nylon").wall_limit(free_standing=False, wire=False)
    0.7
    """
    sheets = usual_rule_sheets()
    if key not in sheets:
        raise RefusedInput(f"There is no material “{key}”; there are {', '.join(sheets)}.")
    return sheets[key]
