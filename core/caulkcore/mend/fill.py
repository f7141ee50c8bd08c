"""Filling holes: flat ones flat, nested flat ones as rings, others by least area."""

from collections.abc import Collection
from typing import Any

import manifold3d
import numpy as np

from ..examine import closed as check
from ..examine.finding import counted
from ..examine.skin import SHEET_SHARE, Loop, Skin
from ..formats.polygons import in_plane, newell
from ..kernels import fill as kernel
from ..mesh import Array, Mesh
from ..topology import Topology
from .outcome import Outcome
from .places import chosen_places

_CUBIC_UP_TO = 160


def fill_holes(mesh: Mesh, places: Collection[int] | None = None, sheets: bool = False) -> Outcome:
    """Close boundary loops with new faces; no vertex moves.

    Loops that lie in one plane are triangulated together, so that the end of a tube becomes a
    ring and not two discs. Others get the triangulation of least area (Barequet & Sharir 1995),
    long ones after being cut by short chords. A chord that the mesh has already is never used.

    Parameters
    ----------
    mesh : Mesh
    places : collection of int, optional
        Numbers of the places to mend; all by default.
    sheets : bool
        Whether to close shells too that look like open sheets.
    """
    skin = Skin(mesh)
    chosen = chosen_places(check.holes(skin), places)
    wanted = {tuple(sorted(p.lines[:, 0].tolist())) for p in chosen}
    loops, left = [], []
    rims = sheet_loops = 0
    for loop in skin.loops:
        starts = loop.vertices if loop.ring else loop.vertices[:-1]
        if tuple(sorted(starts.tolist())) not in wanted:
            continue
        if not loop.ring or len(loop.vertices) < 3:
            rims += 1
        elif skin.sheets[loop.shell] and not sheets:
            sheet_loops += 1
        else:
            loops.append(loop)
    if rims:
        left.append(
            f"{counted(rims, 'open rim')} left: the edge does not come back to where it began."
        )
    if sheet_loops:
        left.append(
            f"{counted(int(skin.sheets.sum()), 'open sheet')} left open: closing would take more "
            f"than {SHEET_SHARE:.0%} of the surface that is there."
        )
    if not loops:
        return Outcome(mesh, left=tuple(left))
    base = Topology(mesh)
    edges = _edge_keys(base, np.concatenate([loop.vertices for loop in loops]))
    new = _fill(mesh, loops, edges)
    vertices, faces = _without_clashes(mesh, loops, new)
    result = Mesh(vertices, faces)
    counts: dict[str, Any] = {"holes": len(loops), "faces": len(faces) - len(mesh.faces)}
    done = f"{counted(len(loops), 'hole')} filled with {counted(counts['faces'], 'triangle')}."
    return Outcome(result, done, counts, tuple(left))


def _edge_keys(topology: Topology, rim: Array) -> set[tuple[int, int]]:
    """Edges of the mesh between two vertices of the rims."""
    on_rim = np.zeros(len(topology.mesh.vertices), dtype=bool)
    on_rim[rim] = True
    edges = topology.edges_where(topology.sharing > 0)
    edges = np.sort(edges[on_rim[edges].all(axis=1)], axis=1)
    return {tuple(e) for e in edges.tolist()}


def _fill(mesh: Mesh, loops: list[Loop], edges: set[tuple[int, int]]) -> list[Array]:
    """Triangles for each loop; those of a ring stand with its outer loop."""
    new: list[Array] = [np.zeros((0, 3), dtype=np.int64)] * len(loops)
    # a fill runs against the faces beside it
    rings = [loop.vertices[::-1] for loop in loops]
    flat = [check.flatness(mesh.vertices[r]) <= check.FLAT_LOOP for r in rings]
    done: set[int] = set()
    for outer, inner in _nested(mesh, [i for i in range(len(loops)) if flat[i]], rings):
        parts = [rings[i] for i in (outer, *inner)]
        normal = newell(mesh.vertices[rings[outer]])
        polygons = [in_plane(mesh.vertices[p], normal) for p in parts]
        triangles = np.concatenate(parts)[np.asarray(manifold3d.triangulate(polygons))]
        if not _uses_known_edge(triangles, parts, edges):
            new[outer] = triangles
            done |= {outer, *inner}
    for i in range(len(loops)):
        if i not in done:
            new[i] = _by_area(mesh.vertices, rings[i], edges)
    return new


def _uses_known_edge(triangles: Array, parts: list[Array], edges: set[tuple[int, int]]) -> bool:
    border = set()
    for p in parts:
        pairs = np.sort(np.stack([p, np.roll(p, -1)], axis=1), axis=1)
        border |= {tuple(e) for e in pairs.tolist()}
    sides = np.sort(triangles[:, [[0, 1], [1, 2], [2, 0]]].reshape(-1, 2), axis=1)
    return any(e in edges and e not in border for e in map(tuple, sides.tolist()))


def _nested(mesh: Mesh, flat: list[int], rings: list[Array]) -> list[tuple[int, list[int]]]:
    """Flat loops with those that are holes in them: coplanar, inside, and running the other way."""
    tolerance = check.FLAT_LOOP
    normals, offsets, sizes = {}, {}, {}
    for i in flat:
        points = mesh.vertices[rings[i]]
        normal = newell(points)
        sizes[i] = float(np.linalg.norm(normal)) / 2
        normals[i] = normal / max(np.linalg.norm(normal), 1e-300)
        offsets[i] = points.mean(axis=0)
    by_size = sorted(flat, key=lambda i: -sizes[i])
    owner: dict[int, int] = {}
    for position, i in enumerate(by_size):
        for j in reversed(by_size[:position]):
            if j in owner or normals[i] @ normals[j] > -1 + 1e-4:
                continue
            reach = tolerance * np.sqrt(sizes[j])
            if abs((offsets[i] - offsets[j]) @ normals[j]) > reach:
                continue
            plane = in_plane(mesh.vertices[rings[j]], normals[j])
            if _inside(in_plane(mesh.vertices[rings[i]], normals[j])[0], plane):
                owner[i] = j
                break
    return [(j, [i for i in by_size if owner.get(i) == j]) for j in by_size if j not in owner]


def _inside(point: Array, ring: Array) -> bool:
    a, b = ring, np.roll(ring, -1, axis=0)
    spans = (a[:, 1] > point[1]) != (b[:, 1] > point[1])
    a, b = a[spans], b[spans]
    x = a[:, 0] + (point[1] - a[:, 1]) / (b[:, 1] - a[:, 1]) * (b[:, 0] - a[:, 0])
    return bool((x > point[0]).sum() % 2)


def _by_area(vertices: Array, ring: Array, edges: set[tuple[int, int]]) -> Array:
    """Least area triangles over one ring; empty when the known edges leave no way."""
    n = len(ring)
    number = {int(v): i for i, v in enumerate(ring)}
    known = [tuple(sorted((number[a], number[b]))) for a, b in edges if a in number and b in number]
    known = [(i, j) for i, j in known if j - i > 1 and not (i == 0 and j == n - 1)]
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
        _by_area(vertices, part, edges)
        for part in (ring[i : j + 1], np.concatenate([ring[j:], ring[: i + 1]]))
    ]
    if any(len(half) == 0 for half in halves):
        return np.zeros((0, 3), dtype=ring.dtype)
    return np.concatenate(halves)


def _without_clashes(mesh: Mesh, loops: list[Loop], new: list[Array]) -> tuple[Array, Array]:
    """All faces together; loops whose fill would over-share an edge get a middle vertex instead."""
    vertices, faces = mesh.vertices, np.concatenate([mesh.faces, *new]).astype(np.int32)
    trial = Topology(Mesh(vertices, faces))
    crowded = {tuple(sorted(e)) for e in trial.edges_where(trial.sharing > 2).tolist()}
    before = Topology(mesh)
    crowded -= {tuple(sorted(e)) for e in before.edges_where(before.sharing > 2).tolist()}
    open_ = {tuple(sorted(e)) for e in trial.edges_where(trial.sharing == 1).tolist()}
    if not crowded and not open_:
        return vertices, faces
    parts, extra = [mesh.faces], []
    for loop, triangles in zip(loops, new, strict=True):
        sides = np.sort(triangles[:, [[0, 1], [1, 2], [2, 0]]].reshape(-1, 2), axis=1)
        rim = np.stack([loop.vertices, np.roll(loop.vertices, -1)], axis=1)
        still_open = {tuple(sorted(e)) for e in rim.tolist()} & open_
        if still_open or any(tuple(e) in crowded for e in sides.tolist()):
            middle = len(vertices) + len(extra)
            extra.append(vertices[loop.vertices].mean(axis=0))
            ring = loop.vertices[::-1]
            triangles = np.stack([ring, np.roll(ring, -1), np.full(len(ring), middle)], axis=1)
        parts.append(triangles)
    stacked = np.concatenate([vertices, np.array(extra).reshape(-1, 3)])
    return stacked, np.concatenate(parts).astype(np.int32)
