"""Closing the hairline gap between two solids."""

from collections.abc import Collection

import numpy as np

from ..examine import solid as check
from ..examine.finding import counted, length_text
from ..examine.limits import USUAL, Limits
from ..examine.skin import Skin
from ..kernels.tree import Tree
from ..mesh import Array, Mesh
from .outcome import Outcome
from .places import chosen_places
from .rounding import on_float32
from .untangle import shells_of, unite


def close_gaps(
    mesh: Mesh,
    places: Collection[int] | None = None,
    overlap: float = 0.02,
    limits: Limits = USUAL,
) -> Outcome:
    """Move the smaller of two solids that almost touch into the other, and unite them.

    It moves along the shortest way across the gap, with the hollows in it; the larger one stays
    where it is.

    Parameters
    ----------
    mesh : Mesh
    places : collection of int, optional
        Numbers of the near gaps; all by default, each piece being moved once.
    overlap : float
        How far it goes in beyond touching, mm.
    limits : Limits
        The shop's, which tell what is near.
    """
    skin = Skin(mesh)
    volume, _ = skin.shell_measures
    shell, _ = skin.shells
    depth, parent = skin.nesting
    vertices = mesh.vertices.copy()
    pairs: list[set[int]] = []
    moved: set[int] = set()
    farthest = 0.0
    for place in chosen_places(check.gap_finding(skin, limits), places):
        two = shells_of(skin, place.faces)
        small, large = sorted(two, key=lambda s: abs(volume[s]))
        if moved & {small, large}:
            continue
        group = [small, *np.flatnonzero((parent == small) & (depth > 0)).tolist()]
        faces = skin.topology.faces[np.isin(shell, group)]
        way = _across(mesh, skin.topology.faces[shell == small], place.curves, overlap)
        vertices[np.unique(faces)] += way
        farthest = max(farthest, float(np.linalg.norm(way)))
        moved |= {small, large}
        pairs.append({small, large})
    if not pairs:
        return Outcome(mesh)
    nearer = on_float32(Mesh(vertices, mesh.faces), mesh)
    met = Skin(nearer)
    found = next((f for f in check.crossings(met) if f and f.kind == "overlapping-shells"), None)
    chosen = [
        n + 1
        for n, place in enumerate(found.places if found else ())
        if set(shells_of(met, place.faces)) in pairs
    ]
    done = unite(nearer, chosen) if chosen else Outcome(nearer)
    if done.mesh is nearer:
        return Outcome(mesh, left=done.left or ("The pieces do not meet when they are moved.",))
    text = (
        f"{counted(len(pairs), 'piece')} moved at most {length_text(farthest)} and united with "
        "what lay beside it."
    )
    return Outcome(done.mesh, text, {"gaps": len(pairs), "farthest_mm": farthest}, done.left)


def _across(mesh: Mesh, faces: Array, spans: Array, overlap: float) -> Array:
    """The way that takes a shell over the narrowest of some spans and a little further."""
    width = np.linalg.norm(spans[:, 1] - spans[:, 0], axis=1)
    span = spans[int(np.argmin(width))]
    distance, _ = Tree.of(mesh.vertices, faces).nearest(span)
    here, there = span if distance[0] <= distance[1] else span[::-1]
    way = there - here
    return way * (1 + overlap / max(float(np.linalg.norm(way)), 1e-12))
