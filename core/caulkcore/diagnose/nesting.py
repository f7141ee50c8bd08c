"""Which shell lies inside which."""

import numpy as np

from ..mesh._face_kernels import shell_boxes
from ..mesh.arrays import Array
from ..mesh.groups import Groups
from ..spatial.box_tree import Tree
from ..spatial.ray_parity import boxes_within, shells_crossed_by_rays

_DIRECTIONS = np.array(
    [[0.5370, 0.2911, 0.7918], [-0.7113, 0.6553, 0.2543], [0.1931, -0.8702, 0.4533]]
)
"""Directions without any symmetry, so that a ray seldom meets an edge; the majority decides."""
_SAMPLES = 5
"""Faces of each shell from which rays go out."""
_FEWEST = 4
"""Fewer triangles than these enclose nothing."""


def shell_depths(vertices: Array, faces: Array, shell: Array, count: int) -> tuple[Array, Array]:
    """Depth and parent of each shell.

    From some faces of each shell, rays go out in three directions. Another shell encloses a face
    if most of its rays cross that shell an odd number of times, and a shell if it encloses all
    the faces asked; shells that merely overlap lie beside one another.

    Parameters
    ----------
    vertices : ndarray, shape (n, 3)
    faces : ndarray, shape (m, 3)
    shell : ndarray, shape (m,)
        Shell of each face.
    count : int
        Number of shells.

    Returns
    -------
    depth : ndarray, shape (count,), int64
        Number of shells around each.
    parent : ndarray, shape (count,), int64
        The innermost shell around each, or -1.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> from caulkcore.mesh.concatenate import concatenate
    >>> inner = cuboid((2.0, 2.0, 2.0), at=(4.0, 4.0, 4.0))
    >>> both = concatenate([cuboid(), inner])
    >>> depth, parent = shell_depths(both.vertices, both.faces, np.repeat([0, 1], 12), 2)
    >>> depth.tolist(), parent.tolist()
    ([0, 1], [-1, 0])
    """
    depth = np.zeros(count, dtype=np.int64)
    parent = np.full(count, -1, dtype=np.int64)
    if count < 2:
        return depth, parent
    by_shell = Groups.by_label(shell)
    low, high = shell_boxes(vertices, faces, shell, count)
    enclosing, enclosed = boxes_within(low, high, by_shell.sizes >= _FEWEST)
    inner = np.flatnonzero(enclosed)
    if not len(inner):
        return depth, parent
    sizes, begin = by_shell.sizes[inner, None], by_shell.starts[inner, None]
    picks = begin + (sizes * (np.arange(_SAMPLES) + 0.5) / _SAMPLES).astype(int)
    points = vertices[faces[by_shell.items[picks.ravel()]]].mean(axis=1)
    own = np.repeat(inner, _SAMPLES)
    outer_faces = enclosing[shell]
    shell = shell[outer_faces]
    tree = Tree.of(vertices, faces[outer_faces])
    votes = []
    for direction in _DIRECTIONS:
        owner, around = shells_crossed_by_rays(tree, points, direction, shell)
        others = own[owner] != around
        votes.append(owner[others] * np.int64(count) + around[others])
    key, times = np.unique(np.concatenate(votes), return_counts=True)
    agreed = key[2 * times > len(_DIRECTIONS)]
    pair, samples = np.unique(own[agreed // count] * count + agreed % count, return_counts=True)
    pair = pair[samples == _SAMPLES]
    inner, outer = pair // count, pair % count
    depth += np.bincount(inner, minlength=count)
    # the last entry of each inner shell is the one that lies deepest
    order = np.lexsort((-outer, depth[outer], inner))
    parent[inner[order]] = outer[order]
    return depth, parent
