"""What an operation on a mesh gives back: the mesh, numbers, and what it left alone."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from .mesh.triangle_mesh import Mesh


@dataclass(frozen=True)
class Skipped:
    """Something that an operation left as it was.

    Attributes
    ----------
    reason : str
        Why, as a stable code in lower case with hyphens, such as ``would-intersect``. Each
        operation documents its own.
    numbers : mapping of str to value
        What goes with the reason: counts, lengths in millimetres, positions.
    """

    reason: str
    numbers: Mapping[str, Any] = field(default_factory=dict)


@dataclass(frozen=True)
class Outcome:
    """The result of one operation.

    Attributes
    ----------
    mesh : Mesh
        The very mesh that came in when nothing was done.
    numbers : dict of str to value
        What was done, in numbers; each operation documents its own.
    skipped : tuple of Skipped
        What was left alone, and why.

    Examples
    --------
    >>> from caulkcore import Mesh
    >>> tetrahedron = Mesh([[0, 0, 0], [1, 0, 0], [0, 1, 0], [0, 0, 1]],
    ...                    [[0, 2, 1], [0, 1, 3], [0, 3, 2], [1, 2, 3]])
    >>> Outcome(tetrahedron).numbers
    {}
    """

    mesh: Mesh
    numbers: dict[str, Any] = field(default_factory=dict)
    skipped: tuple[Skipped, ...] = ()
