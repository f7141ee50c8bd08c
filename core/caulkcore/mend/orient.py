"""Turning faces so that all agree and face outward."""

from collections.abc import Collection

import numpy as np

from ..examine import closed as check
from ..examine.finding import counted
from ..examine.skin import Skin
from ..mesh import Mesh
from .outcome import Outcome
from .places import chosen_places, faces_of


def turn_patches(mesh: Mesh, places: Collection[int] | None = None) -> Outcome:
    """Turn faces that run against the majority of their neighbours.

    Parameters
    ----------
    mesh : Mesh
    places : collection of int, optional
        Numbers of the places to mend; all by default.
    """
    skin = Skin(mesh)
    chosen = faces_of(chosen_places(check.flipped(skin), places))
    turn = np.intersect1d(chosen, skin.flipped_faces)
    left: tuple[str, ...] = ()
    if len(skin.twisted_faces):
        left = (
            f"{counted(len(skin.twisted_faces), 'face')} of a one-sided surface cannot be made "
            "to agree; it must be cut first.",
        )
    if not len(turn):
        return Outcome(mesh, left=left)
    return Outcome(
        _turned(mesh, turn), f"{counted(len(turn), 'face')} turned.", {"faces": len(turn)}, left
    )


def turn_outward(mesh: Mesh, places: Collection[int] | None = None) -> Outcome:
    """Turn shells that are inside out, together with all that lies inside them.

    Parameters
    ----------
    mesh : Mesh
    places : collection of int, optional
        Numbers of the places to mend; all by default.
    """
    skin = Skin(mesh)
    places_chosen = chosen_places(check.inside_out(skin), places)
    if not places_chosen:
        return Outcome(mesh)
    shell, count = skin.shells
    _, parent = skin.nesting
    chosen = np.zeros(count, dtype=bool)
    chosen[shell[np.isin(skin.kept, faces_of(places_chosen))]] = True
    outermost = np.arange(count)
    while (parent[outermost] >= 0).any():
        outermost = np.where(parent[outermost] >= 0, parent[outermost], outermost)
    turn = skin.kept[chosen[outermost[shell]]]
    n = len(places_chosen)
    inner = int(chosen[outermost].sum()) - n
    done = f"{counted(n, 'shell')} turned outward"
    done += f", with {counted(inner, 'shell')} inside." if inner else "."
    return Outcome(_turned(mesh, turn), done, {"shells": n, "faces": len(turn)})


def _turned(mesh: Mesh, which: np.ndarray) -> Mesh:
    faces = mesh.faces.copy()
    faces[which] = faces[which][:, ::-1]
    return Mesh(mesh.vertices, faces)
