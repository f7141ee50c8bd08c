"""Which faces of a surface cross, and which new ones would."""

import numpy as np

from ..arrange import have_area
from ..kernels.crossings import crossing_pairs
from ..kernels.tree import Tree
from ..mesh import Array


def crossing_faces(vertices: Array, faces: Array, fresh: Array | None = None) -> Array:
    """Pairs of faces that cross, those without area left out, shape (k, 2).

    Parameters
    ----------
    vertices : ndarray, shape (n, 3)
    faces : ndarray, shape (m, 3)
    fresh : ndarray, shape (m,), bool, optional
        Faces one of which must be in each pair; all by default.
    """
    tree = Tree.of(vertices, faces)
    return crossing_pairs(tree, ~have_area(tree.vertices, tree.faces), fresh)


def new_faces_met(vertices: Array, faces: Array, new: Array) -> Array:
    """Numbers of those new faces that cross known ones or each other.

    Parameters
    ----------
    vertices : ndarray, shape (n, 3)
    faces : ndarray, shape (m, 3)
    new : ndarray, shape (k, 3)
    """
    every = np.concatenate([faces, new])
    met = np.unique(crossing_faces(vertices, every, np.arange(len(every)) >= len(faces)))
    return met[met >= len(faces)] - len(faces)
