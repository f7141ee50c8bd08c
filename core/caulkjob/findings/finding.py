"""What a check found, and where."""

from dataclasses import dataclass, field
from typing import Any, Literal

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
        }


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
    places : tuple of Place
        Worst first.
    """

    kind: str
    severity: Severity
    count: int
    text: str
    places: tuple[Place, ...] = ()

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
