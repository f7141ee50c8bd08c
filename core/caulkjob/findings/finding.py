"""What a check found, and where."""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field
from typing import Any, Literal, overload

import numpy as np
from caulkcore.mesh.arrays import Array

Severity = Literal["leak", "call", "note"]


@dataclass(frozen=True)
class Place:
    """One spot of a finding.

    Attributes
    ----------
    title : str
        What it is, such as ``Hole, 14 edges``.
    measure : str
        Its size with the unit.
    count : int
        Edges, vertices, faces or shells here.
    low, high : ndarray, shape (3,)
        Its bounding box.
    at : ndarray, shape (3,)
        A point on it, for a mark to point at.
    facing : ndarray, shape (3,)
        Mean normal of the surface there; the direction to look from. May be zero.
    faces : ndarray, shape (k,), int32
        Faces of the mesh that belong to it.
    lines : ndarray, shape (k, 2), int32
        Pairs of vertices of the mesh: edges that belong to it.
    curves : ndarray, shape (k, 2, 3)
        Segments that belong to it and are no edges.
    stands_for : int
        Number of places that this entry gathers; 1 but for the last of very many.
    thickness, limit : float, optional
        Of a wall or gap: what was measured, and what the material asks for, mm.
    adds, shift : float, optional
        Of a wall: about what building it up on both sides adds, mm³, and by how much the skin moves
        at most, mm.
    area : float, optional
        Of an open sheet, mm²: a thickness adds so much for each millimetre.
    value : float, optional
        `measure` as a number, in its own unit: what a decision about the place is held against.
    pieces : tuple of int
        Shells that the title names.
    naming : callable, optional
        Makes the title from the numbers by which people know those pieces.
    """

    title: str
    measure: str
    count: int
    low: Array
    high: Array
    at: Array
    facing: Array
    faces: Array = field(default_factory=lambda: np.zeros(0, dtype=np.int32))
    lines: Array = field(default_factory=lambda: np.zeros((0, 2), dtype=np.int32))
    curves: Array = field(default_factory=lambda: np.zeros((0, 2, 3)))
    stands_for: int = 1
    thickness: float | None = None
    limit: float | None = None
    adds: float | None = None
    shift: float | None = None
    area: float | None = None
    value: float | None = None
    pieces: tuple[int, ...] = ()
    naming: Callable[[Sequence[int]], str] | None = None

    def as_json(self) -> dict[str, Any]:
        """Everything but the lists of faces and lines.

        Returns
        -------
        dict of str to value
        """
        return {
            "title": self.title,
            "measure": self.measure,
            "count": self.count,
            "box": [self.low.tolist(), self.high.tolist()],
            "at": self.at.tolist(),
            "facing": self.facing.tolist(),
            "thickness_mm": self.thickness,
            "limit_mm": self.limit,
            "adds_mm3": self.adds,
            "shift_mm": self.shift,
            "area_mm2": self.area,
            "value": self.thickness if self.value is None else self.value,
            "stands_for": self.stands_for,
            "pieces": list(self.pieces),
        }


class Places(Sequence[Place]):
    """Places of a finding that are made when the first of them is asked for.

    Most examinations are only counted: while a mesh is mended, after every step.

    Parameters
    ----------
    make : callable
        Makes all of them.

    Examples
    --------
    >>> len(Places(lambda: ()))
    0
    """

    def __init__(self, make: Callable[[], tuple[Place, ...]]) -> None:
        self._make: Callable[[], tuple[Place, ...]] | None = make
        self._made: tuple[Place, ...] = ()

    def _all(self) -> tuple[Place, ...]:
        if self._make is not None:
            # what they are made of may be large, and is let go
            self._made, self._make = self._make(), None
        return self._made

    def __len__(self) -> int:
        return len(self._all())

    def __iter__(self) -> Iterator[Place]:
        return iter(self._all())

    @overload
    def __getitem__(self, i: int) -> Place: ...
    @overload
    def __getitem__(self, i: slice) -> tuple[Place, ...]: ...
    def __getitem__(self, i: int | slice) -> Place | tuple[Place, ...]:
        return self._all()[i]


@dataclass(frozen=True)
class Finding:
    """All places of one kind.

    Attributes
    ----------
    kind : str
        Stable name, see `caulkcore.kinds`.
    severity : {"leak", "call", "note"}
        Whether it blocks, needs a decision, or is good to know.
    count : int
        Number of edges, vertices, faces or shells concerned.
    text : str
        Cause and consequence in plain words.
    places : sequence of Place
        Worst first.
    """

    kind: str
    severity: Severity
    count: int
    text: str
    places: Sequence[Place] = ()

    @property
    def place_count(self) -> int:
        """Number of places, those gathered in the last entry counted singly."""
        return sum(p.stands_for for p in self.places)

    def as_json(self) -> dict[str, Any]:
        """The form of the report: kind, count, number of places, severity, text.

        Returns
        -------
        dict of str to value

        Examples
        --------
        >>> Finding("open-edges", "leak", 3, "A hole.").as_json()["severity"]
        'leak'
        """
        return {
            "kind": self.kind,
            "count": self.count,
            "places": self.place_count,
            "severity": self.severity,
            "text": self.text,
        }
