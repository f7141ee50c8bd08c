"""Taking chosen faces out of a surface, and going on with it where they were."""

import numpy as np

from ..diagnose.diagnosis import Diagnosis
from ..mesh import _edge_kernels as kernel
from ..mesh.arrays import Array
from ..mesh.fitted_plane import fitted_plane
from ..mesh.sharp_edges import SHARP
from ..mesh.topology import Topology
from ..mesh.triangle_mesh import Mesh, face_areas, face_normals
from ..outcome import Outcome, Skipped
from .fairing import FillShape
from .holes import fill_holes

_ISLAND_SHARE = 0.1
"""What is left inside the chosen faces goes with them if its area is at most this share of
theirs: faces that a hand has missed."""
_FLAT = 1e-4
"""A rim lies in a plane if no point of it is further away than this share of its extent."""
_FOLLOWING: FillShape = "following"
"""How a rim is filled that is not flat."""
_ROUNDS = 8
"""Times that faces are added to a choice whose rim touches itself in a vertex."""


def delete_faces(mesh: Mesh, chosen: Array) -> Outcome:
    """Take faces out; their rim stays open.

    Parameters
    ----------
    mesh : Mesh
    chosen : ndarray, shape (m,), bool

    Returns
    -------
    Outcome
        Numbers: ``faces`` taken out. Skipped: ``nothing-chosen``; ``everything-chosen``.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> len(delete_faces(cuboid(), np.arange(12) < 2).mesh.faces)
    10
    """
    if skipped := no_part(chosen):
        return Outcome(mesh, skipped=skipped)
    left = Mesh(mesh.vertices, mesh.faces[~chosen]).compact()
    return Outcome(left, {"faces": int(chosen.sum())})


def no_part(chosen: Array) -> tuple[Skipped, ...]:
    """Why chosen faces are no part of a mesh that could be taken from the rest.

    Parameters
    ----------
    chosen : ndarray, shape (m,), bool

    Returns
    -------
    tuple of Skipped
        ``nothing-chosen`` or ``everything-chosen``; empty where they are such a part.
    """
    if not chosen.any():
        return (Skipped("nothing-chosen"),)
    return (Skipped("everything-chosen"),) if chosen.all() else ()


def erase_faces(mesh: Mesh, chosen: Array, *, shape: FillShape = "fitting") -> Outcome:
    """Take faces out and go on with the surface where they were, as if they never had been.

    Few faces that are left inside the choice go with it. The rims that come of it are filled: a
    flat rim in a flat face flat, others as the surface around them bends. Rims that were open
    before stay so.

    Parameters
    ----------
    mesh : Mesh
    chosen : ndarray, shape (m,), bool
    shape : {"fitting", "flat", "following"}
        Of the fills; see `fill_holes`. ``fitting`` follows the surface over every rim that is not
        flat, too.

    Returns
    -------
    Outcome
        Numbers: ``faces`` taken out, ``holes`` closed, ``added`` faces. Skipped:
        ``nothing-chosen``; ``everything-chosen``; ``at-open-rim`` with ``rims``: those that run
        along a rim that was open before.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> erased = erase_faces(cuboid(), np.arange(12) < 2)
    >>> erased.numbers["holes"], round(erased.mesh.volume)
    (1, 1000)
    """
    chosen = with_islands(mesh, chosen)
    if skipped := no_part(chosen):
        return Outcome(mesh, skipped=skipped)
    left = Mesh(mesh.vertices, mesh.faces[~chosen])
    diagnosis = Diagnosis(left)
    loops, old = loops_along(diagnosis, rim_edges(mesh, chosen))
    skipped = (Skipped("at-open-rim", {"rims": old}),) if old else ()
    flat = np.ones(len(loops), dtype=bool)
    if shape == "fitting" and len(loops):
        flat = _are_flat(diagnosis, loops)
    found = diagnosis.boundary_loops
    result, holes, added = left, 0, 0
    for which, how in ((loops[flat], shape), (loops[~flat], _FOLLOWING)):
        if not len(which):
            continue
        edges = np.concatenate([_codes(found[int(i)].lines) for i in which])
        # their numbers move when others are filled
        current = diagnosis if result is left else Diagnosis(result)
        again, _ = loops_along(current, edges)
        outcome = fill_holes(current, again, shape=how, open_sheets=True)
        if outcome.mesh is not result:
            result = outcome.mesh
            holes += outcome.numbers["holes"]
            added += outcome.numbers["faces"]
    numbers = {"faces": int(chosen.sum()), "holes": holes, "added": added}
    return Outcome(result.compact(), numbers, skipped)


def with_islands(mesh: Mesh, chosen: Array) -> Array:
    """The chosen faces, with few that are left inside, and without rims that touch themselves.

    Parameters
    ----------
    mesh : Mesh
    chosen : ndarray, shape (m,), bool

    Returns
    -------
    ndarray, shape (m,), bool

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import torus
    >>> chosen = np.arange(len(torus(12).faces)) != 40
    >>> bool(with_islands(torus(12), chosen).all())
    True
    """
    chosen = chosen.copy()
    area = face_areas(mesh.vertices, mesh.faces)
    whole, shells = Topology(mesh).shells
    for _ in range(_ROUNDS):
        rest = np.flatnonzero(~chosen)
        if not len(rest):
            break
        piece, count = Topology(mesh, mesh.faces[rest]).shells
        touched = np.zeros(len(mesh.vertices), dtype=bool)
        touched[mesh.faces[chosen]] = True
        beside = np.zeros(count, dtype=bool)
        beside[piece[touched[mesh.faces[rest]].any(axis=1)]] = True
        size = np.bincount(piece, weights=area[rest], minlength=count)
        small = beside & (size <= _ISLAND_SHARE * area[chosen].sum())
        # the largest that is left of each shell is what the choice is a part of
        of_shell = np.zeros(count, dtype=np.int64)
        of_shell[piece] = whole[rest]
        largest = np.zeros(shells)
        np.maximum.at(largest, of_shell, size)
        small &= (size < largest[of_shell]) | (size <= _ISLAND_SHARE**2 * area[chosen].sum())
        chosen[rest[small[piece]]] = True
        pinched = _pinched_by(mesh, chosen) & ~chosen
        if not pinched.any():
            break
        chosen |= pinched
    return chosen


def _pinched_by(mesh: Mesh, chosen: Array) -> Array:
    """Faces round the vertices at which what is left would touch itself in a point."""
    left = np.flatnonzero(~chosen)
    used = np.zeros(len(mesh.vertices), dtype=bool)
    used[mesh.faces[chosen]] = True
    near = left[used[mesh.faces[left]].any(axis=1)]
    if not len(near):
        return np.zeros(len(chosen), dtype=bool)
    topology = Topology(mesh, mesh.faces[near])
    _, fans = kernel.fan_labels(topology.faces, topology.order, topology.starts)
    twice = np.zeros(len(mesh.vertices), dtype=bool)
    twice[: len(fans)] = fans > 1
    return (twice & used)[mesh.faces].any(axis=1)


def rim_edges(mesh: Mesh, chosen: Array) -> Array:
    """Edges between a chosen face and one that is left.

    Parameters
    ----------
    mesh : Mesh
    chosen : ndarray, shape (m,), bool

    Returns
    -------
    ndarray, shape (k,), int64
        A code for each.
    """
    topology = Topology(mesh)
    half = np.flatnonzero(np.repeat(~chosen, 3) & (topology.twin >= 0))
    half = half[chosen[topology.twin[half] // 3]]
    return _codes(topology.ends(half))


def _codes(ends: Array) -> Array:
    """A number for each edge, the same in both directions."""
    low, high = ends.min(axis=1).astype(np.int64), ends.max(axis=1)
    return low << 32 | high


def loops_along(diagnosis: Diagnosis, edges: Array) -> tuple[Array, int]:
    """Loops that run along given edges only, and how many do so in part.

    Parameters
    ----------
    diagnosis : Diagnosis
    edges : ndarray, shape (k,), int64
        As of `rim_edges`.

    Returns
    -------
    loops : ndarray, shape (j,)
        Their numbers in `Diagnosis.boundary_loops`.
    part : int
        Number of those that run along other edges, too.
    """
    found = diagnosis.boundary_loops
    numbers, part = [], 0
    for i in range(len(found)):
        along = np.isin(_codes(found[i].lines), edges)
        if along.all():
            numbers.append(i)
        elif along.any():
            part += 1
    return np.array(numbers, dtype=np.int64), part


def _are_flat(diagnosis: Diagnosis, loops: Array) -> Array:
    """Whether each loop lies in a plane that the faces beside it do not lean over smoothly."""
    found, mesh = diagnosis.boundary_loops, diagnosis.mesh
    open_ = np.flatnonzero(diagnosis.topology.twin == -1)
    codes = _codes(diagnosis.topology.ends(open_))
    order = np.argsort(codes)
    normals = face_normals(mesh.vertices, diagnosis.topology.faces)
    told = np.zeros(len(loops), dtype=bool)
    for k, i in enumerate(loops):
        loop = found[int(i)]
        points = mesh.vertices[loop.vertices]
        middle, normal = fitted_plane(points)
        off = np.abs((points - middle) @ normal).max()
        extent = np.ptp(points, axis=0).max()
        at = np.searchsorted(codes[order], _codes(loop.lines))
        lean = np.abs(normals[open_[order[at]] // 3] @ normal)
        bent = (lean > np.cos(np.radians(SHARP))) & (lean < 1 - 1e-6)
        told[k] = off <= _FLAT * extent and bent.mean() < 0.5
    return told
