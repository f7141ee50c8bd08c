"""Flat boundary loops that lie in one another, as the two rims of a tube's missing end do."""

import numpy as np

from ..mesh import Array
from ..polygons import contains, flatness, in_plane, newell

FLAT_LOOP = 1e-3
"""A loop counts as flat when no point lies further from its plane than this share of its extent."""
_OPPOSITE = -1 + 1e-4


def nest(rings: list[Array]) -> list[tuple[int, list[int]]]:
    """Sort flat loops into outer ones and the holes in them.

    A loop is a hole in another if it lies in the same plane, inside it, and runs the other way.

    Parameters
    ----------
    rings : list of ndarray, shape (k, 3)
        Points of closed loops; curved ones are left out of the answer.

    Returns
    -------
    list of (int, list of int)
        Each outer flat loop with its holes, largest first.
    """
    flat = np.array([i for i, p in enumerate(rings) if flatness(p) <= FLAT_LOOP], dtype=int)
    vectors = np.array([newell(rings[i]) for i in flat]).reshape(-1, 3)
    doubled = np.linalg.norm(vectors, axis=1)
    by_size = np.argsort(-doubled, kind="stable")
    by_size = by_size[doubled[by_size] > 0]
    flat, sizes = flat[by_size], doubled[by_size] / 2
    if not len(flat):
        return []
    normals = vectors[by_size] / doubled[by_size, None]
    middles = np.array([rings[i].mean(axis=0) for i in flat])
    owner: dict[int, int] = {}
    for i, near in enumerate(_opposite_planes(normals, middles, sizes)):
        for j in sorted((k for k in near if k < i), reverse=True):
            if j in owner or normals[i] @ normals[j] > _OPPOSITE:
                continue
            if abs((middles[i] - middles[j]) @ normals[j]) > FLAT_LOOP * np.sqrt(sizes[j]):
                continue
            plane = in_plane(rings[flat[j]], normals[j])
            if contains(plane, in_plane(rings[flat[i]], normals[j])[0]):
                owner[i] = j
                break
    inner: dict[int, list[int]] = {j: [] for j in range(len(flat)) if j not in owner}
    for i, j in owner.items():
        inner[j].append(int(flat[i]))
    return [(int(flat[j]), holes) for j, holes in inner.items()]


def _opposite_planes(normals: Array, middles: Array, sizes: Array) -> list[list[int]]:
    """For each loop those whose plane is nearly the same, turned round."""
    from scipy.spatial import cKDTree  # half a second to import, and most meshes need it not

    scale = np.abs(middles).max() + np.sqrt(sizes.max())
    height = np.einsum("ij,ij->i", normals, middles) / scale
    planes = np.column_stack([normals, height])
    reach = np.sqrt(2 * (1 + _OPPOSITE)) + FLAT_LOOP
    found: list[list[int]] = cKDTree(planes).query_ball_point(-planes, reach).tolist()
    return found
