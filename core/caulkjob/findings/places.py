"""Making places from the faces, edges and curves that belong to them."""

from collections.abc import Callable
from dataclasses import replace

import numpy as np
from caulkcore.diagnose.diagnosis import Diagnosis
from caulkcore.mesh.arrays import Array
from caulkcore.mesh.triangle_mesh import Mesh, face_crosses

from ..questions import noun
from ..text import length_text
from .finding import Place, Places

LISTED = 2000
"""Places of one finding that are listed singly; the others stand together in one more line."""


def worst_first(
    mesh: Mesh,
    kind: str,
    rank: Array,
    make: Callable[[int], Place],
    faces: Callable[[Array], Array] | None = None,
    *,
    lines: Callable[[Array], Array] | None = None,
    curves: Callable[[Array], Array] | None = None,
) -> Places:
    """Places in order of their rank, the greatest first, and those beyond `LISTED` as one.

    Parameters
    ----------
    mesh : Mesh
    kind : str
        Kind of the finding, for the words.
    rank : ndarray, shape (places,)
        How bad each is.
    make : callable
        Makes a place of its number.
    faces, lines, curves : callable, optional
        What belongs to the places of some numbers, all together.

    Returns
    -------
    Places
    """
    return Places(lambda: _ranked(mesh, kind, rank, make, faces, lines, curves))


def _ranked(
    mesh: Mesh,
    kind: str,
    rank: Array,
    make: Callable[[int], Place],
    faces: Callable[[Array], Array] | None,
    lines: Callable[[Array], Array] | None,
    curves: Callable[[Array], Array] | None,
) -> tuple[Place, ...]:
    """See `worst_first`."""
    order = by_rank(rank)
    places = [make(i) for i in order[:LISTED].tolist()]
    others = np.sort(order[LISTED:])
    if len(others):
        place = place_of(
            mesh,
            f"{len(others):,} more {noun(kind, len(others))}",
            "no worse than these",
            len(others),
            faces=faces(others) if faces else None,
            lines=lines(others) if lines else None,
            curves=curves(others) if curves else None,
            stands_for=len(others),
        )
        places.append(place)
    return tuple(places)


def shell_places(
    diagnosis: Diagnosis,
    kind: str,
    chosen: Array,
    title: Callable[[int], str],
    *,
    more: Callable[[int, Place], Place] | None = None,
) -> Places:
    """A place for each of some shells, the largest first; `title` is that of a shell.

    Parameters
    ----------
    diagnosis : Diagnosis
    kind : str
        Of the finding.
    chosen : ndarray, shape (k,)
        Numbers of the shells.
    title : callable
        Takes the number of a shell.
    more : callable, optional
        Takes that and the place made of it, and says more of it.

    Returns
    -------
    Places
    """
    longest = diagnosis.shell_sides[chosen].max(axis=1, initial=0.0)

    def place(i: int) -> Place:
        faces = diagnosis.by_shell[chosen[i]]
        measure = f"longest side {length_text(float(longest[i]))}"
        made = place_of(diagnosis.mesh, title(chosen[i]), measure, len(faces), faces=faces)
        made = replace(made, value=float(longest[i]))
        return more(int(chosen[i]), made) if more else made

    def faces(selected: Array) -> Array:
        return diagnosis.by_shell.of(chosen[selected])

    return worst_first(diagnosis.mesh, kind, longest, place, faces=faces)


def by_rank(rank: Array) -> Array:
    """Numbers of things in order of their rank, the greatest first.

    Parameters
    ----------
    rank : ndarray, shape (k,)

    Returns
    -------
    ndarray, shape (k,)

    Examples
    --------
    >>> by_rank(np.array([1.0, 9.0, 5.0])).tolist()
    [1, 2, 0]
    """
    return np.argsort(-np.asarray(rank, dtype=float), kind="stable")


def place_of(
    mesh: Mesh,
    title: str,
    measure: str,
    count: int,
    *,
    faces: Array | None = None,
    lines: Array | None = None,
    curves: Array | None = None,
    facing: Array | None = None,
    stands_for: int = 1,
) -> Place:
    """A place with its box, a point on it, and the direction to look from.

    Parameters
    ----------
    mesh : Mesh
    title, measure : str
    count : int
    faces : ndarray, shape (k,), optional
        Faces of the mesh.
    lines : ndarray, shape (k, 2), optional
        Pairs of vertices.
    curves : ndarray, shape (k, 2, 3), optional
        Segments that are no edges. When given, the place is where they are.
    facing : ndarray, shape (3,), optional
        The surface's direction there; by default the faces' mean normal, away from the middle for
        lines alone, and none for faces that look every way.
    stands_for : int
        Number of places that this one gathers.

    Returns
    -------
    Place
    """
    faces = np.asarray([] if faces is None else faces, dtype=np.int32)
    lines = np.asarray([] if lines is None else lines, dtype=np.int32).reshape(-1, 2)
    curves = np.zeros((0, 2, 3)) if curves is None else curves
    if len(curves):
        points = curves.reshape(-1, 3)
    else:
        points = mesh.vertices[np.concatenate([mesh.faces[faces].ravel(), lines.ravel()])]
    low, high = points.min(axis=0), points.max(axis=0)
    middle = (low + high) / 2
    if facing is None and len(faces):
        crosses = face_crosses(mesh.vertices, mesh.faces[faces])
        facing = crosses.sum(axis=0)
        if np.linalg.norm(facing) < 1e-3 * np.abs(crosses).sum():
            facing = np.zeros(3)
    elif facing is None:
        facing = middle - mesh.bounds.mean(axis=0)
    size = np.linalg.norm(facing)
    at = points[np.argmin(np.linalg.norm(points - middle, axis=1))]
    direction = facing / size if size > 0 else np.zeros(3)
    return Place(title, measure, count, low, high, at, direction, faces, lines, curves, stands_for)
