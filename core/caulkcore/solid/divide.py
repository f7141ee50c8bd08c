"""A solid divided by another one into what lies outside it and what lies in it."""

from dataclasses import dataclass

from ..mesh.triangle_mesh import Mesh
from ..outcome import Skipped
from ..progress import SILENT, Progress
from .boolean import Boolean, boolean


@dataclass(frozen=True, eq=False)
class Divided:
    """What a cutter made of a solid.

    Attributes
    ----------
    outside, inside : Mesh or None
        None where nothing is.
    skipped : tuple of Skipped
        Why it was not done: as of `caulkcore.solid.boolean.boolean`.
    """

    outside: Mesh | None
    inside: Mesh | None
    skipped: tuple[Skipped, ...] = ()


def divide(mesh: Mesh, cutter: Mesh, *, progress: Progress = SILENT) -> Divided:
    """Divide a solid by the surface of another one.

    Both parts meet in the same faces, and faces that the cutter does not meet stay as they are.

    Parameters
    ----------
    mesh, cutter : Mesh
        Closed.
    progress : Progress

    Returns
    -------
    Divided

    Raises
    ------
    Cancelled
        If `progress` asks to stop.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> made = divide(cuboid(), cuboid((4.0, 4.0, 4.0), at=(3.0, 3.0, 8.0)))
    >>> round(made.outside.volume, 3), round(made.inside.volume, 3)
    (968.0, 32.0)
    """
    parts: list[Mesh | None] = []
    whats: tuple[Boolean, ...] = ("difference", "intersection")
    for i, what in enumerate(whats):
        made = boolean(mesh, cutter, what, progress=progress.span(0.5 * i, 0.5 * i + 0.5))
        reasons = {skipped.reason for skipped in made.skipped}
        if reasons - {"nothing-left", "nothing-changes"}:
            return Divided(None, None, made.skipped)
        parts.append(None if "nothing-left" in reasons else made.mesh)
    outside, inside = parts
    return Divided(outside, inside)
