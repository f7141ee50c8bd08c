"""What every cut has in common: what is refused, and parts set off from one another."""

from collections.abc import Sequence
from typing import Any

import numpy as np
from caulkcore.diagnose.diagnosis import Diagnosis
from caulkcore.errors import OperationRefused
from caulkcore.mesh.arrays import Array
from caulkcore.mesh.concatenate import concatenate
from caulkcore.mesh.triangle_mesh import Mesh
from caulkcore.progress import Progress
from caulkcore.solid.cutters import UselessLine, line_cutter
from caulkcore.solid.divide import divide
from caulkcore.solid.plane_cut import PlaneCut, plane_cut

from ..operation import OperationResult


def refuse_open(mesh: Mesh) -> None:
    """Refuse what has no inside.

    Parameters
    ----------
    mesh : Mesh

    Raises
    ------
    OperationRefused
        If a piece is open.
    """
    if Diagnosis.of(mesh).open_shells.any():
        raise OperationRefused("It is not closed; what is open cannot be cut into closed parts.")


def cut_by_plane(mesh: Mesh, point: Array, normal: Array, progress: Progress) -> PlaneCut:
    """Cut solids by a plane.

    Parameters
    ----------
    mesh : Mesh
    point, normal : ndarray, shape (3,)
    progress : Progress

    Returns
    -------
    PlaneCut

    Raises
    ------
    OperationRefused
        If it is not manifold where the plane meets it.
    Cancelled
        If `progress` asks to stop.
    """
    try:
        return plane_cut(mesh, point, normal, progress=progress)
    except ValueError:
        raise OperationRefused(
            "Where the plane meets it more than two faces share an edge; mend it first."
        ) from None


def cutter_along(mesh: Mesh, line: Array, way: Array) -> tuple[Mesh, Array | None]:
    """What cuts along a line, and the way off it.

    Parameters
    ----------
    mesh : Mesh
    line : ndarray, shape (n, 3)
    way : ndarray, shape (3,)
        Unit vector: the way that it is looked at.

    Returns
    -------
    solid : Mesh
    aside : ndarray, shape (3,), or None
        See `caulkcore.solid.cutters.line_cutter`.

    Raises
    ------
    OperationRefused
        If nothing can be cut along it.
    """
    try:
        return line_cutter(mesh, line, way)
    except UselessLine as why:
        raise OperationRefused(str(why)) from None


def divided(mesh: Mesh, cutter: Mesh, progress: Progress) -> tuple[Mesh | None, Mesh | None]:
    """What lies outside what cuts, and what in it.

    Parameters
    ----------
    mesh, cutter : Mesh
    progress : Progress

    Returns
    -------
    outside, inside : Mesh or None
        None where there is nothing.

    Raises
    ------
    OperationRefused
        If they cannot be combined.
    Cancelled
        If `progress` asks to stop.
    """
    made = divide(mesh, cutter, progress=progress)
    for why in made.skipped:
        if why.reason == "open":
            raise OperationRefused("What cuts is not closed, so that it has no inside.")
        raise OperationRefused(f"It cannot be cut so. {why.numbers.get('message', '')}".strip())
    return made.outside, made.inside


def moved(mesh: Mesh, by: Array) -> Mesh:
    """A mesh somewhere else.

    Parameters
    ----------
    mesh : Mesh
    by : ndarray, shape (3,)
        mm.

    Returns
    -------
    Mesh
        The very same where nothing is to be moved.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> moved(cuboid(), np.array([5.0, 0.0, 0.0])).bounds.tolist()
    [[5.0, 0.0, 0.0], [15.0, 10.0, 10.0]]
    """
    return Mesh(mesh.vertices + by, mesh.faces) if np.any(by) else mesh


def set_off(
    parts: Sequence[Mesh], apart: Sequence[Mesh], done: str, numbers: dict[str, Any]
) -> OperationResult:
    """What came of a cut: its parts set off from one another, and where they were.

    Parameters
    ----------
    parts, apart : sequence of Mesh
        Where they were cut, and where they stand.
    done : str
    numbers : dict of str to value

    Returns
    -------
    OperationResult
    """
    where_cut = concatenate(parts).vertices
    return OperationResult(concatenate(apart), done, numbers, unmoved=where_cut)


def beside(parts: Sequence[Mesh], more: Sequence[Mesh], gap: float) -> list[Mesh]:
    """Further parts in a row beside some, in the direction of x.

    Parameters
    ----------
    parts, more : sequence of Mesh
    gap : float
        Between one and the next, mm.

    Returns
    -------
    list of Mesh
        The further ones.
    """
    edge = max(float(one.bounds[1][0]) for one in parts)
    out = []
    for one in more:
        by = edge + gap - float(one.bounds[0][0])
        out.append(moved(one, np.array([by, 0.0, 0.0])))
        edge = float(out[-1].bounds[1][0])
    return out
