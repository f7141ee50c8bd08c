"""What a shop has settled once: the limits of the checks, and what mending may decide."""

from dataclasses import dataclass, fields
from typing import Any, Literal

from caulkcore.errors import OperationRefused, RefusedInput

from .limits import Limits
from .operation import Parameter, number

Clear = Literal["ask", "keep", "drop"]

SETTINGS = (
    number(
        "near_gap",
        "Near gap",
        "Two solids that come nearer than this without touching were probably meant to.",
        "mm",
        0.001,
        5.0,
        0.05,
    ),
    number(
        "debris_size",
        "Debris, longest side",
        "A shell no longer than this is one.",
        "mm",
        0,
        10,
        0.5,
    ),
    number(
        "debris_volume",
        "Debris, volume",
        "A shell that holds no more than this is one, too, unless it is longer than the next.",
        "mm³",
        0,
        1000,
        0.1,
    ),
    number("debris_reach", "… and at most as long as", "See above.", "mm", 0, 100, 2.0),
    number("file_megabytes", "Largest file", "To send on, as binary STL.", "MB", 1, 2000, 100),
    Parameter("unite", "Overlapping pieces", "Mending unites them.", "switch", default=True),
    Parameter(
        "voids",
        "Sealed voids",
        "What mending does with hollows without an opening.",
        "choice",
        ("ask", "keep", "fill"),
        ("a person decides", "they stay, accepted", "they are filled"),
        default="ask",
    ),
    Parameter(
        "buried",
        "Buried solids",
        "What mending does with solids inside another.",
        "choice",
        ("ask", "keep", "drop"),
        ("a person decides", "they stay, accepted", "they are left out"),
        default="drop",
    ),
    Parameter(
        "debris",
        "Debris",
        "What mending does with bits too small to be meant.",
        "choice",
        ("ask", "keep", "drop"),
        ("a person decides", "it stays, accepted", "it is left out"),
        default="ask",
    ),
    Parameter(
        "format",
        "Format that leaves",
        "Proposed first when something is released; any other can be chosen.",
        "choice",
        ("3mf", "stl", "obj", "ply"),
        ("3MF, keeps unit and names", "STL", "OBJ", "PLY"),
        default="3mf",
    ),
    number(
        "kept_days",
        "Kept after they are due",
        "Before that, nobody removes an order with its files.",
        "days",
        0,
        3650,
        90,
    ),
)
"""All that can be settled, for forms; of a choice, `offers` says what each means."""

KEPT = {"voids": "sealed-voids", "buried": "buried-shells", "debris": "debris"}
"""Which kind of finding each policy is about."""


@dataclass(frozen=True)
class ShopPolicy:
    """A shop's limits and policy; see `SETTINGS`.

    Attributes
    ----------
    near_gap, debris_size, debris_volume, debris_reach : float
        As in `Limits`.
    file_megabytes : float
        10⁶ bytes.
    unite : bool
    voids : {"ask", "keep", "fill"}
    buried, debris : {"ask", "keep", "drop"}
    format : {"3mf", "stl", "obj", "ply"}
        What is proposed first for delivery.
    kept_days : float
        Days after its due date before which an order is not removed.
    """

    near_gap: float = 0.05
    debris_size: float = 0.5
    debris_volume: float = 0.1
    debris_reach: float = 2.0
    file_megabytes: float = 100.0
    unite: bool = True
    voids: Literal["ask", "keep", "fill"] = "ask"
    buried: Clear = "drop"
    debris: Clear = "ask"
    format: Literal["3mf", "stl", "obj", "ply"] = "3mf"
    kept_days: float = 90.0

    @staticmethod
    def from_json(given: Any) -> "ShopPolicy":
        """The settings of a JSON object; what is not given is as usual.

        Parameters
        ----------
        given : dict

        Returns
        -------
        ShopPolicy

        Raises
        ------
        RefusedInput
            If one is unknown or out of its limits.

        Examples
        --------
        >>> ShopPolicy.from_json({"voids": "fill"}).policy["voids"]
        'fill'
        """
        if not isinstance(given, dict):
            raise RefusedInput("The shop's settings must be an object of named values.")
        known = {one.name: one for one in SETTINGS}
        for name in given:
            if name not in known:
                raise RefusedInput(f"There is no setting “{name}”.")
        try:
            return ShopPolicy(**{name: one.check(given.get(name)) for name, one in known.items()})
        except OperationRefused as problem:
            raise RefusedInput(str(problem)) from problem

    def as_json(self) -> dict[str, Any]:
        """All of it as plain values.

        Returns
        -------
        dict of str to value
        """
        return {one.name: getattr(self, one.name) for one in fields(self)}

    @property
    def limits(self) -> Limits:
        """What the checks measure against."""
        return Limits(
            file_bytes=round(self.file_megabytes * 1e6),
            near_gap=self.near_gap,
            debris_size=self.debris_size,
            debris_volume=self.debris_volume,
            debris_reach=self.debris_reach,
        )

    @property
    def policy(self) -> dict[str, Any]:
        """The arguments of `mend` that it decides."""
        return {
            "unite": self.unite,
            "voids": self.voids,
            "buried": self.buried,
            "debris": self.debris,
        }

    @property
    def accepted(self) -> tuple[str, ...]:
        """Kinds of finding that stay as they are without a question."""
        return tuple(kind for name, kind in KEPT.items() if getattr(self, name) == "keep")
