"""Joining open chains that lie beside one another."""

from collections.abc import Collection

import numpy as np

from ..examine import closed as check
from ..examine.finding import counted, length_text
from ..examine.skin import Skin
from ..mesh import Mesh
from .outcome import Outcome
from .places import chosen_places, lines_of


def stitch_cracks(mesh: Mesh, places: Collection[int] | None = None) -> Outcome:
    """Join the two sides of cracks, vertex to vertex.

    The vertex with the lower number stays where it is and the other moves to it, so no
    coordinate is invented. Only vertices on cracks move.

    Parameters
    ----------
    mesh : Mesh
    places : collection of int, optional
        Numbers of the places to mend; all by default.
    """
    skin = Skin(mesh)
    chosen = lines_of(chosen_places(check.cracks(skin), places))
    if not len(chosen):
        return Outcome(mesh)
    _, join = skin.cracks
    concerned = np.zeros(len(mesh.vertices), dtype=bool)
    concerned[chosen.ravel()] = True
    target = np.where(concerned, join, np.arange(len(join), dtype=np.int32))
    moved = np.flatnonzero(target != np.arange(len(target)))
    way = np.linalg.norm(mesh.vertices[moved] - mesh.vertices[target[moved]], axis=1)
    result = Mesh(mesh.vertices, target[mesh.faces]).compact()
    return Outcome(
        result,
        f"{counted(len(chosen), 'crack edge')} stitched, by moving "
        f"{counted(len(moved), 'vertex', 'vertices')} at most {length_text(float(way.max()))}.",
        {"edges": len(chosen), "vertices_moved": len(moved), "farthest_mm": float(way.max())},
    )
