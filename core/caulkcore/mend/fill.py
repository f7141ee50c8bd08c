"""Filling holes: flat ones flat, nested flat ones as rings, others following the surface."""

from collections.abc import Collection
from typing import Any

import manifold3d
import numpy as np

from ..examine import closed as check
from ..examine.finding import counted
from ..examine.loops import Loop
from ..examine.places import by_rank
from ..examine.skin import SHEET_SHARE, Skin
from ..kernels import fill as kernel
from ..mesh import Array, Mesh
from ..polygons import in_plane, newell
from ..topology import Topology
from .follow import Shape, follow
from .outcome import Outcome
from .places import chosen_numbers, chosen_places, faces_of
from .rounding import on_float32

_CUBIC_UP_TO = 160


def fill_holes(
    mesh: Mesh, places: Collection[int] | None = None, shape: Shape = "fitting"
) -> Outcome:
    """Close boundary loops with new faces; no vertex moves. Open sheets are left.

    Loops that lie in one plane are triangulated together, so that the end of a tube becomes a
    ring and not two discs. Others get the triangulation of least area (Barequet & Sharir 1995),
    long ones after being cut by short chords. A chord that the mesh has already is never used.
    Where the surface bends over a hole, the fill is made as fine and as bent (see `following`),
    unless it would cross something then.

    Parameters
    ----------
    mesh : Mesh
    places : collection of int, optional
        Numbers of the places to mend; all by default.
    shape : {"fitting", "flat", "following"}
        ``flat`` never adds a point inside a hole, ``following`` always does if there is room.
    """
    skin = Skin(mesh)
    order = by_rank(skin.loops.extents)
    return _filled(skin, set(chosen_numbers(order, places).tolist()), False, shape)


def close_sheets(
    mesh: Mesh, places: Collection[int] | None = None, shape: Shape = "fitting"
) -> Outcome:
    """Put lids on open sheets as if they had holes; see `fill_holes`.

    Parameters
    ----------
    mesh : Mesh
    places : collection of int, optional
        Numbers of the open sheets; all by default.
    shape : {"fitting", "flat", "following"}
    """
    skin = Skin(mesh)
    faces = faces_of(chosen_places(check.sheets(skin), places))
    shells = np.unique(skin.shells[0][np.isin(skin.kept, faces)])
    return _filled(skin, set(np.flatnonzero(np.isin(skin.loops.shell, shells))), True, shape)


def _filled(skin: Skin, numbers: set[int], sheets: bool, shape: Shape) -> Outcome:
    """Fill some of the loops."""
    mesh, found = skin.mesh, skin.loops
    for outer, inner in found.nested:
        # the rims of a ring are filled together or not at all
        if numbers & {outer, *inner}:
            numbers |= {outer, *inner}
    wanted = []
    left = []
    rims = sheet_loops = 0
    for i in sorted(numbers):
        if not found.ring[i] or found.edges[i] < 3:
            rims += 1
        elif skin.sheets[found.shell[i]] and not sheets:
            sheet_loops += 1
        else:
            wanted.append(i)
    if rims:
        left.append(
            f"{counted(rims, 'open rim')} left: the edge does not come back to where it began."
        )
    if sheet_loops:
        left.append(
            f"{counted(int(skin.sheets.sum()), 'open sheet')} left open: closing would take more "
            f"than {SHEET_SHARE:.0%} of the surface that is there."
        )
    if not wanted:
        return Outcome(mesh, left=tuple(left))
    chosen = found.take(np.array(wanted))
    loops = list(chosen)
    new = _fill(mesh, loops, chosen.nested, beside_on_rims(mesh, loops))
    vertices, fills = _without_clashes(mesh, loops, new)
    bent = 0
    if shape != "flat":
        vertices, fills, bent = follow(mesh, skin, chosen, vertices, fills, shape)
    result = Mesh(vertices, np.concatenate([mesh.faces, *fills]).astype(np.int32))
    if len(vertices) > len(mesh.vertices):
        result = on_float32(result.compact(), mesh)
    faces = sum(map(len, fills))
    counts: dict[str, Any] = {"holes": len(loops), "faces": faces, "following": bent}
    done = f"{counted(len(loops), 'hole')} filled with {counted(faces, 'triangle')}"
    if bent:
        some = f"{bent:,} of them " if len(loops) > 1 else ""
        done += f", {some}following the surface around"
    return Outcome(result, done + ".", counts, tuple(left))


def beside_on_rims(mesh: Mesh, loops: list[Loop]) -> dict[int, set[int]]:
    """For each vertex of the rims the other rim vertices that the mesh has an edge to."""
    on_rim = np.zeros(len(mesh.vertices), dtype=bool)
    on_rim[np.concatenate([loop.vertices for loop in loops])] = True
    topology = Topology(mesh)
    edges = topology.edges_where(topology.sharing > 0)
    beside: dict[int, set[int]] = {}
    for a, b in edges[on_rim[edges].all(axis=1)].tolist():
        beside.setdefault(a, set()).add(b)
        beside.setdefault(b, set()).add(a)
    return beside


def _fill(
    mesh: Mesh,
    loops: list[Loop],
    nested: list[tuple[int, list[int]]],
    beside: dict[int, set[int]],
) -> list[Array]:
    """Triangles for each loop; those of a ring stand with its outer loop."""
    new: list[Array] = [np.zeros((0, 3), dtype=np.int64)] * len(loops)
    # a fill runs against the faces beside it
    rings = [loop.vertices[::-1] for loop in loops]
    done: set[int] = set()
    for outer, inner in nested:
        parts = [rings[i] for i in (outer, *inner)]
        normal = newell(mesh.vertices[rings[outer]])
        polygons = [in_plane(mesh.vertices[p], normal) for p in parts]
        triangles = np.concatenate(parts)[np.asarray(manifold3d.triangulate(polygons))]
        if not uses_known_edge(triangles, parts, beside):
            new[outer] = triangles
            done |= {outer, *inner}
    for i in range(len(loops)):
        if i not in done:
            new[i] = _by_area(mesh.vertices, rings[i], beside)
    return new


def _sides(triangles: Array) -> list[tuple[int, int]]:
    pairs = np.sort(triangles[:, [[0, 1], [1, 2], [2, 0]]].reshape(-1, 2), axis=1)
    return [tuple(e) for e in pairs.tolist()]


def uses_known_edge(triangles: Array, parts: list[Array], beside: dict[int, set[int]]) -> bool:
    """Whether triangles over some rings have an edge that is the mesh's, but not a ring's."""
    border = {
        tuple(sorted(e))
        for p in parts
        for e in zip(p.tolist(), np.roll(p, -1).tolist(), strict=True)
    }
    return any(b in beside.get(a, ()) and (a, b) not in border for a, b in _sides(triangles))


def _by_area(vertices: Array, ring: Array, beside: dict[int, set[int]]) -> Array:
    """Least area triangles over one ring; empty when the known edges leave no way."""
    n = len(ring)
    number = {int(v): i for i, v in enumerate(ring)}
    known = [
        (i, number[w])
        for v, i in number.items()
        for w in beside.get(v, ())
        if w in number and number[w] - i > 1 and not (i == 0 and number[w] == n - 1)
    ]
    if n <= _CUBIC_UP_TO:
        banned = np.zeros((n, n), dtype=np.bool_)
        for i, j in known:
            banned[i, j] = True
        return ring[kernel.least_area(vertices[ring], banned)]
    pairs = np.array(known, dtype=np.int64).reshape(-1, 2)
    i, j = kernel.best_chord(vertices[ring], pairs[:, 0].copy(), pairs[:, 1].copy())
    if i < 0:
        return np.zeros((0, 3), dtype=ring.dtype)
    halves = [
        _by_area(vertices, part, beside)
        for part in (ring[i : j + 1], np.concatenate([ring[j:], ring[: i + 1]]))
    ]
    if any(len(half) == 0 for half in halves):
        return np.zeros((0, 3), dtype=ring.dtype)
    return np.concatenate(halves)


def _without_clashes(mesh: Mesh, loops: list[Loop], new: list[Array]) -> tuple[Array, list[Array]]:
    """Fills; those that would over-share an edge get a middle vertex instead."""
    vertices, faces = mesh.vertices, np.concatenate([mesh.faces, *new]).astype(np.int32)
    trial = Topology(Mesh(vertices, faces))
    crowded = {tuple(sorted(e)) for e in trial.edges_where(trial.sharing > 2).tolist()}
    before = Topology(mesh)
    crowded -= {tuple(sorted(e)) for e in before.edges_where(before.sharing > 2).tolist()}
    open_ = {tuple(sorted(e)) for e in trial.edges_where(trial.sharing == 1).tolist()}
    if not crowded and not open_:
        return vertices, new
    parts: list[Array] = []
    extra: list[Array] = []
    for loop, triangles in zip(loops, new, strict=True):
        rim = np.stack([loop.vertices, np.roll(loop.vertices, -1)], axis=1)
        still_open = {tuple(sorted(e)) for e in rim.tolist()} & open_
        if still_open or any(e in crowded for e in _sides(triangles)):
            middle = len(vertices) + len(extra)
            extra.append(vertices[loop.vertices].mean(axis=0))
            ring = loop.vertices[::-1]
            triangles = np.stack([ring, np.roll(ring, -1), np.full(len(ring), middle)], axis=1)
        parts.append(triangles)
    return np.concatenate([vertices, np.array(extra).reshape(-1, 3)]), parts
