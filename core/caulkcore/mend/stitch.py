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
    coordinate is invented. Only vertices on cracks move. Where one side has more vertices than
    the other, the faces of the other are divided at them.

    Parameters
    ----------
    mesh : Mesh
    places : collection of int, optional
        Numbers of the places to mend; all by default.
    """
    skin = Skin(mesh)
    lines = lines_of(chosen_places(check.cracks(skin), places))
    if not len(lines):
        return Outcome(mesh)
    chosen = np.zeros(len(mesh.vertices), dtype=bool)
    chosen[lines.ravel()] = True
    cracks = skin.cracks
    moved = np.flatnonzero(chosen & (cracks.join != np.arange(len(cracks.join))))
    way = np.linalg.norm(mesh.vertices[moved] - mesh.vertices[cracks.join[moved]], axis=1)
    faces, source = cracks.stitched(skin.topology.faces, chosen)
    against = np.isin(skin.kept, skin.flipped_faces)[source]
    faces[against] = faces[against][:, ::-1]
    aside = np.delete(mesh.faces, skin.kept, axis=0)
    result = Mesh(mesh.vertices, np.concatenate([faces, aside])).compact()
    farthest = float(way.max()) if len(way) else 0.0
    done = f"{counted(len(lines), 'crack edge')} stitched, by moving "
    done += f"{counted(len(moved), 'vertex', 'vertices')} at most {length_text(farthest)}"
    divided = int((np.bincount(source) > 1).sum())
    if divided:
        done += f" and dividing {counted(divided, 'face')}"
    counts = {"edges": len(lines), "vertices_moved": len(moved), "farthest_mm": farthest}
    return Outcome(result, done + ".", counts)
