"""The description of an operation: what it can mend, what can be chosen, what to run."""

import math
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any, Literal

import numpy as np
from caulkcore.errors import OperationRefused
from caulkcore.mesh.arrays import Array
from caulkcore.mesh.triangle_mesh import Mesh
from caulkcore.remesh.estimate import Estimate

MOST_SPOTS = 200
"""Spots of a region: as many as a person picks by hand, and more."""
MOST_CORNERS = 2000
"""Corners of a drawn line: a long way drawn by hand."""
MOST_RUNS = 100_000
"""Runs of chosen faces: a choice on a million triangles has some thousands."""
MOST_MESHES = 1000
"""Other models of one operation: as many files as come in together, and more."""
MOST_COPIES = 500
"""Copies made at once: a plate full of small parts."""
GIVE_THICKNESS, CLOSE_SHEET = "Give it a thickness", "Put a lid on it"
"""Titles of the operations for open sheets, which refusals name."""
MOST_FACES = 2**31
"""Faces that a mesh can have: they are numbered in 32 bits."""


@dataclass(frozen=True)
class OperationResult:
    """What came of an operation, with the sentences of the logbook.

    Attributes
    ----------
    mesh : Mesh
        The very mesh that came in when nothing was done.
    done : str
        What was done, in one sentence; empty when nothing was.
    numbers : dict
        The numbers behind the sentence.
    left : tuple of str
        What was left alone, and why.
    unmoved : ndarray, shape (n, 3), optional
        Where the vertices would stand if no piece had been moved, turned or set off: what tells
        which piece each one was. None where none was.
    """

    mesh: Mesh
    done: str = ""
    numbers: dict[str, Any] = field(default_factory=dict)
    left: tuple[str, ...] = ()
    unmoved: Array | None = None


Kind = Literal[
    "places",
    "finding",
    "switch",
    "choice",
    "number",
    "region",
    "pieces",
    "faces",
    "vector",
    "line",
    "meshes",
]
"""What a parameter is."""


@dataclass(frozen=True)
class Parameter:
    """One thing that can be chosen about an operation.

    Attributes
    ----------
    name, title, about : str
    kind : Kind
        ``places`` are numbers of a finding's places; none means all. ``finding`` is the kind of
        finding whose places are meant, where an operation answers several. ``faces`` are chosen
        ones by runs, as `caulkcore.mesh.face_runs` has them. ``vector`` is x, y, z; ``line`` is
        two or more of them; ``meshes`` are other models.
    choices : tuple of str
        For ``choice``.
    offers : tuple of str
        For ``choice``: what a button says that takes each; empty for those without a button.
    unit : str
        For ``number``.
    least, most : float
        Limits for ``number``, both allowed.
    empty : str
        For ``number`` without a default, and ``region``: what giving none means, in a word or
        two; empty for a region that has to be given.
    default : value
    needed : bool
        Whether it has to be given.
    """

    name: str
    title: str
    about: str
    kind: Kind
    choices: tuple[str, ...] = ()
    offers: tuple[str, ...] = ()
    unit: str = ""
    least: float = 0.0
    most: float = 0.0
    default: Any = None
    empty: str = ""
    needed: bool = False

    def check(self, value: Any) -> Any:
        """The value, or the default for None.

        Parameters
        ----------
        value : value or None

        Returns
        -------
        value

        Raises
        ------
        OperationRefused
            If it is of the wrong kind or out of its limits.

        Examples
        --------
        >>> number("wall", "Wall", "Its thickness.", "mm", 0.1, 9.0, 1.0).check(None)
        1.0
        """
        if value is None:
            return self.default
        if self.kind == "switch" and isinstance(value, bool):
            return value
        if self.kind in ("choice", "finding") and value in self.choices:
            return value
        if self.kind == "number" and isinstance(value, int | float) and not isinstance(value, bool):
            if self.least <= value <= self.most:
                return float(value)
            raise OperationRefused(
                f"{self.title} must be from {self.least:g} to {self.most:g} {self.unit}."
            )
        if (
            self.kind in ("places", "pieces")
            and isinstance(value, list)
            and all(isinstance(n, int) and not isinstance(n, bool) for n in value)
        ):
            return value
        if self.kind == "region" and _is_region(value):
            return value
        if self.kind == "faces" and (isinstance(value, np.ndarray) or _is_runs(value)):
            return value
        if self.kind == "vector" and _is_vector(value):
            return value
        if self.kind == "line" and _is_line(value):
            return value
        if self.kind == "meshes" and isinstance(value, list) and len(value) <= MOST_MESHES:
            return value
        if self.kind == "faces" and isinstance(value, list) and len(value) > 2 * MOST_RUNS:
            raise OperationRefused("What is chosen is in too many scraps; grow or shrink it.")
        raise OperationRefused(f"{self.title} cannot be {value!r}.")


def number(
    name: str,
    title: str,
    about: str,
    unit: str,
    least: float,
    most: float,
    default: float | None = None,
    *,
    empty: str = "",
    needed: bool = False,
) -> Parameter:
    """A parameter that is a number.

    Parameters
    ----------
    name, title, about, unit : str
        As of `Parameter`.
    least, most : float
        Both allowed.
    default : float, optional
    empty : str
        What giving none means.
    needed : bool
        Whether it has to be given.

    Returns
    -------
    Parameter
    """
    return Parameter(
        name,
        title,
        about,
        "number",
        unit=unit,
        least=least,
        most=most,
        default=default,
        empty=empty,
        needed=needed,
    )


def _is_vector(value: Any) -> bool:
    """Whether it is x, y, z, mm."""
    return (
        isinstance(value, list)
        and len(value) == 3
        and all(type(x) in (int, float) and math.isfinite(x) and abs(x) < 1e9 for x in value)
    )


def _is_line(value: Any) -> bool:
    """Whether it is a list of two points or more, mm."""
    return (
        isinstance(value, list) and 2 <= len(value) <= MOST_CORNERS and all(map(_is_vector, value))
    )


def _is_region(value: Any) -> bool:
    """Whether it is a list of spots: x, y, z and a radius above nothing, mm."""
    return (
        isinstance(value, list)
        and 0 < len(value) <= MOST_SPOTS
        and all(
            isinstance(spot, list)
            and len(spot) == 4
            and all(isinstance(x, int | float) and not isinstance(x, bool) for x in spot)
            and all(math.isfinite(x) for x in spot)
            and spot[3] > 0
            for spot in value
        )
    )


def _is_runs(value: Any) -> bool:
    """Whether it is a list of runs of faces: first, count, first, count, and so on."""
    return (
        isinstance(value, list)
        and 0 < len(value) <= 2 * MOST_RUNS
        and len(value) % 2 == 0
        and all(type(n) is int and 0 <= n < MOST_FACES for n in value)
    )


@dataclass(frozen=True)
class Operation:
    """Something that can be done to a mesh.

    Attributes
    ----------
    name : str
        Stable key.
    title : str
        As the button says.
    past : str
        As the logbook says.
    about : str
        What it will do, in one sentence.
    answers : tuple of str
        Kinds of finding that it can mend.
    parameters : tuple of Parameter
    run : callable
        Takes the mesh, the parameters by name, and returns an `OperationResult`.
    tells : bool
        Whether `run` takes a `Progress`, too.
    by_rules : bool
        Whether `run` takes the material's `RuleSheet`, too.
    by_limits : bool
        Whether `run` takes the shop's `Limits`, too.
    freely : bool
        Whether it may be run where nothing was found; then it must not make anything worse.
    opens : bool
        Whether it is meant to leave the skin open.
    whole : bool
        Whether its result stands or falls as a whole: nothing of it is put back in places.
    joins : bool
        Whether it brings pieces together as they are, whatever that makes of the model.
    brings_in : bool
        Whether what it leaves is the model and, after it, the other models that it was given.
    cost : callable, optional
        Takes `MeshMeasures` and the parameters by name, and tells the `Estimate`; raises as `run`
        would.
    """

    name: str
    title: str
    past: str
    about: str
    answers: tuple[str, ...]
    parameters: tuple[Parameter, ...]
    run: Callable[..., OperationResult]
    tells: bool = False
    by_rules: bool = False
    by_limits: bool = False
    freely: bool = False
    opens: bool = False
    whole: bool = False
    joins: bool = False
    brings_in: bool = False
    cost: Callable[..., Estimate] | None = None

    def check(self, given: dict[str, Any]) -> dict[str, Any]:
        """Parameters with defaults filled in.

        Parameters
        ----------
        given : dict
            Parameters by name.

        Returns
        -------
        dict
            All of them.

        Raises
        ------
        OperationRefused
            If one is unknown or out of its limits.
        """
        known = {p.name: p for p in self.parameters}
        for name in given:
            if name not in known:
                raise OperationRefused(f"“{self.title}” has nothing to choose named “{name}”.")
        checked = {name: p.check(given.get(name)) for name, p in known.items()}
        for p in self.parameters:
            if p.needed and checked[p.name] is None:
                raise OperationRefused(f"{p.title} must be given.")
        return checked
