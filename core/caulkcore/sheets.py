"""Rule sheets: what a material on a process demands of a part."""

import json
from dataclasses import asdict, dataclass, fields
from functools import cache
from pathlib import Path
from typing import Any

from .errors import RefusedInput

_LENGTHS = (
    "wall_supported", "wall_free", "wire_supported", "wire_free", "engraved", "embossed",
    "clearance", "drain_hole", "drain_holes", "smallest", "tolerance",
)  # fmt: skip
_MOST = 100.0


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
        """The least thickness of a wall or wire of this kind."""
        if wire:
            return self.wire_free if free_standing else self.wire_supported
        return self.wall_free if free_standing else self.wall_supported

    def as_json(self) -> dict[str, Any]:
        """All of it as plain values."""
        return {**asdict(self), "largest": list(self.largest)}

    @classmethod
    def from_json(cls, given: dict[str, Any]) -> "RuleSheet":
        """The sheet of plain values.

        Raises
        ------
        RefusedInput
            If a value is missing, unknown, or out of its limits.
        """
        known = {f.name for f in fields(cls)}
        for name in sorted(known ^ given.keys()):
            raise RefusedInput(f"A rule sheet {'lacks' if name in known else 'has no'} “{name}”.")
        for name in _LENGTHS:
            if not isinstance(given[name], int | float) or not 0 <= given[name] <= _MOST:
                raise RefusedInput(f"“{name}” must be from 0 to {_MOST:g} mm.")
        sides = given["largest"]
        if len(sides) != 3 or not all(0 < s <= 10_000 for s in sides):
            raise RefusedInput("“largest” must be three sides of up to 10,000 mm.")
        if not 0 < given["density_g_cm3"] < 30:
            raise RefusedInput("“density_g_cm3” must be between 0 and 30.")
        if min(given["price_per_cm3"], given["price_per_part"]) < 0:
            raise RefusedInput("A price cannot be below 0.")
        return cls(**{**given, "largest": tuple(float(s) for s in sides)})


@cache
def usual_sheets() -> dict[str, RuleSheet]:
    """The sheets that ship with the product, by key."""
    text = Path(__file__).with_name("rule_sheets.json").read_text(encoding="utf-8")
    return {one["key"]: RuleSheet.from_json(one) for one in json.loads(text)}


def usual_sheet(key: str) -> RuleSheet:
    """The shipped sheet of a material.

    Raises
    ------
    RefusedInput
        If there is none; the message says which there are.
    """
    sheets = usual_sheets()
    if key not in sheets:
        raise RefusedInput(f"There is no material “{key}”; there are {', '.join(sheets)}.")
    return sheets[key]
