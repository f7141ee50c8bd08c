"""What the shells of a mesh are to each other: solids, voids, buried solids, debris."""

from dataclasses import dataclass

import numpy as np

from ..mesh import _edge_kernels as kernel
from ..mesh.arrays import Array
from ..mesh.groups import Groups
from .diagnosis import Diagnosis

_DEBRIS_SHARE = 0.05
"""Nothing is debris that is longer than this share of the largest shell, however small it is."""


@dataclass(frozen=True)
class DebrisSize:
    """How small a shell must be to count as debris.

    Attributes
    ----------
    size : float
        It is debris if its longest side is at most this, mm.
    volume, reach : float
        It is debris, too, if it holds at most this, mm³, and its longest side is at most that, mm.
    """

    size: float = 0.5
    volume: float = 0.1
    reach: float = 2.0


def debris(diagnosis: Diagnosis, limit: DebrisSize) -> Array:
    """Shells too small to be meant: never all of them, and no open sheets.

    Parameters
    ----------
    diagnosis : Diagnosis
    limit : DebrisSize

    Returns
    -------
    ndarray, shape (k,)
        Numbers of the shells, ascending.
    """
    _, count = diagnosis.shells
    volume, _ = diagnosis.shell_measures
    longest = diagnosis.shell_sides.max(axis=1, initial=0.0)
    hardly_any = (np.abs(volume) <= limit.volume) & (longest <= limit.reach)
    small = (longest <= limit.size) | hardly_any
    small &= ~diagnosis.open_sheets & (longest < _DEBRIS_SHARE * longest.max(initial=0))
    return np.flatnonzero(small) if count > 1 else np.zeros(0, dtype=np.int64)


def material_depth(diagnosis: Diagnosis) -> Array:
    """How many solids minus voids lie around each shell.

    Parameters
    ----------
    diagnosis : Diagnosis

    Returns
    -------
    ndarray, shape (shells,), int64
        Above zero where there is material around.

    Examples
    --------
    >>> from caulkcore.mesh.concatenate import concatenate
    >>> from caulkcore.mesh.triangle_mesh import Mesh
    >>> points = np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0], [0, 0, 1.0]])
    >>> sides = np.array([[0, 2, 1], [0, 1, 3], [0, 3, 2], [1, 2, 3]])
    >>> inner = Mesh(points * 0.2 + 0.1, sides[:, ::-1])
    >>> hollow = Diagnosis(concatenate([Mesh(points, sides), inner]))
    >>> material_depth(hollow).tolist()
    [0, 1]
    """
    _, count = diagnosis.shells
    volume, _ = diagnosis.shell_measures
    depth, parent = diagnosis.nesting
    around = np.zeros(count, dtype=np.int64)
    for level in range(1, int(depth.max(initial=0)) + 1):
        here = np.flatnonzero((depth == level) & (parent >= 0))
        around[here] = around[parent[here]] + np.where(volume[parent[here]] >= 0, 1, -1)
    return around


def sealed_voids(diagnosis: Diagnosis, limit: DebrisSize) -> Array:
    """Closed shells that face inward with material around them, debris left out.

    Parameters
    ----------
    diagnosis : Diagnosis
    limit : DebrisSize

    Returns
    -------
    ndarray, shape (k,)
        Numbers of the shells, ascending.
    """
    volume, _ = diagnosis.shell_measures
    inner = (volume < 0) & (material_depth(diagnosis) > 0) & ~diagnosis.open_shells
    return np.setdiff1d(np.flatnonzero(inner), debris(diagnosis, limit))


def buried_solids(diagnosis: Diagnosis, limit: DebrisSize) -> Array:
    """Shells that face outward with material around them, debris left out.

    Parameters
    ----------
    diagnosis : Diagnosis
    limit : DebrisSize

    Returns
    -------
    ndarray, shape (k,)
        Numbers of the shells, ascending.
    """
    volume, _ = diagnosis.shell_measures
    inner = (volume >= 0) & (material_depth(diagnosis) > 0) & ~diagnosis.open_sheets
    return np.setdiff1d(np.flatnonzero(inner), debris(diagnosis, limit))


def outer_solids(diagnosis: Diagnosis, limit: DebrisSize) -> Array:
    """Closed shells that come out as material of their own: outward, not inside material.

    Parameters
    ----------
    diagnosis : Diagnosis
    limit : DebrisSize
        Debris is left out.

    Returns
    -------
    ndarray, shape (k,)
        Numbers of the shells, ascending.
    """
    volume, _ = diagnosis.shell_measures
    free = (volume > 0) & (material_depth(diagnosis) == 0) & ~diagnosis.open_shells
    return np.setdiff1d(np.flatnonzero(free), debris(diagnosis, limit))


def loose_parts(diagnosis: Diagnosis, limit: DebrisSize) -> Groups:
    """The outer solids, those together whose faces intersect.

    Parameters
    ----------
    diagnosis : Diagnosis
    limit : DebrisSize

    Returns
    -------
    Groups
        Numbers of the shells of each part.
    """
    chosen = outer_solids(diagnosis, limit)
    if len(chosen) < 2:
        return Groups.by_label(chosen, chosen)  # whatever crosses
    shell, count = diagnosis.shells
    pairs = shell[diagnosis.intersecting_pairs].astype(np.int32).reshape(-1, 2)
    joined = kernel.components(pairs, count)
    return Groups.by_label(joined[chosen], chosen)


def part_sizes(diagnosis: Diagnosis, limit: DebrisSize) -> Array:
    """Sides of the bounding box of each loose part.

    Parameters
    ----------
    diagnosis : Diagnosis
    limit : DebrisSize

    Returns
    -------
    ndarray, shape (k, 3)
        mm. Of all together while anything is open, or there are no two parts.

    Examples
    --------
    >>> from caulkcore.mesh.concatenate import concatenate
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> two = concatenate([cuboid(), cuboid((4.0, 4.0, 4.0), at=(90.0, 0.0, 0.0))])
    >>> part_sizes(Diagnosis(two), DebrisSize(0.5, 0.1, 2.0)).tolist()
    [[10.0, 10.0, 10.0], [4.0, 4.0, 4.0]]
    """
    mesh = diagnosis.mesh
    if diagnosis.open_shells.any():
        return mesh.size[None]
    parts = loose_parts(diagnosis, limit)
    if len(parts) < 2:
        return mesh.size[None]
    part_of = np.full(diagnosis.shells[1] + 1, -1)
    for i in range(len(parts)):
        part_of[parts[i]] = i
    part = part_of[diagnosis.shell_of_face]
    corners = mesh.vertices[mesh.faces[part >= 0]]
    low, high = np.full((2, len(parts), 3), np.inf)
    np.minimum.at(low, part[part >= 0], corners.min(axis=1))
    np.minimum.at(high, part[part >= 0], -corners.max(axis=1))
    sizes: Array = -high - low
    return sizes


def shells_of_faces(diagnosis: Diagnosis, faces: Array) -> Array:
    """Shells that some faces belong to.

    Parameters
    ----------
    diagnosis : Diagnosis
    faces : ndarray, shape (k,)
        Numbers of faces of the mesh; those that do not count belong to none.

    Returns
    -------
    ndarray, shape (j,)
        Numbers of the shells, ascending.
    """
    shell, _ = diagnosis.shells
    return np.unique(shell[np.isin(diagnosis.kept, faces)])
