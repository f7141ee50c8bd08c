"""Clearing the inside: filling voids, dropping buried solids and debris."""

from collections.abc import Callable, Collection

import numpy as np

from ..examine import inside as check
from ..examine.finding import Finding, counted, volume_text
from ..examine.limits import USUAL, Limits
from ..examine.skin import Skin
from ..mesh import Mesh
from .outcome import Outcome
from .places import chosen_places, faces_of


def fill_voids(
    mesh: Mesh, places: Collection[int] | None = None, limits: Limits = USUAL
) -> Outcome:
    """Fill sealed voids by leaving out their skin, with all that lies in them.

    Parameters
    ----------
    mesh : Mesh
    places : collection of int, optional
        Numbers of the places to fill; all by default.
    limits : Limits
        The shop's.
    """
    return _without_shells(mesh, places, check.sealed_voids, limits, "void", "filled")


def drop_buried(
    mesh: Mesh, places: Collection[int] | None = None, limits: Limits = USUAL
) -> Outcome:
    """Leave out the skin of solids that lie inside another, with all that lies in them.

    Parameters
    ----------
    mesh : Mesh
    places : collection of int, optional
        Numbers of the places to drop; all by default.
    limits : Limits
        The shop's.
    """
    return _without_shells(mesh, places, check.buried_shells, limits, "buried solid", "left out")


def drop_debris(
    mesh: Mesh, places: Collection[int] | None = None, limits: Limits = USUAL
) -> Outcome:
    """Leave out bits too small to be meant.

    Parameters
    ----------
    mesh : Mesh
    places : collection of int, optional
        Numbers of the places to drop; all by default.
    limits : Limits
        The shop's.
    """
    return _without_shells(mesh, places, check.debris_bits, limits, "bit of debris", "dropped")


def _without_shells(
    mesh: Mesh,
    places: Collection[int] | None,
    find: Callable[[Skin, Limits], Finding | None],
    limits: Limits,
    noun: str,
    done: str,
) -> Outcome:
    skin = Skin(mesh)
    chosen = chosen_places(find(skin, limits), places)
    if not chosen:
        return Outcome(mesh)
    shell, count = skin.shells
    volume, _ = skin.shell_measures
    _, parent = skin.nesting
    gone = np.zeros(count, dtype=bool)
    gone[shell[np.isin(skin.kept, faces_of(chosen))]] = True
    picked = int(gone.sum())
    # what floats in a void goes with it
    for s in np.argsort(skin.nesting[0], kind="stable").tolist():
        gone[s] |= parent[s] >= 0 and gone[parent[s]]
    faces = np.delete(mesh.faces, skin.kept[gone[shell]], axis=0)
    many = noun.replace("bit of", "bits of") if noun.startswith("bit") else f"{noun}s"
    text = f"{counted(picked, noun, many)} {done}"
    more = int(gone.sum()) - picked
    text += f", with {counted(more, 'shell')} inside" if more else ""
    text += f": {volume_text(float(np.abs(volume[gone]).sum()))}."
    return Outcome(Mesh(mesh.vertices, faces).compact(), text, {"shells": int(gone.sum())})
