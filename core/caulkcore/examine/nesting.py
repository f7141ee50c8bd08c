"""Which shell lies inside which."""

import numpy as np

from ..kernels.nesting import covering_shells
from ..kernels.tree import Tree
from ..mesh import Array

# Directions without any symmetry, so that a ray seldom meets an edge; the votes decide.
_DIRECTIONS = np.array(
    [[0.5370, 0.2911, 0.7918], [-0.7113, 0.6553, 0.2543], [0.1931, -0.8702, 0.4533]]
)
_SAMPLES = 5


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
    """
    depth = np.zeros(count, dtype=np.int64)
    parent = np.full(count, -1, dtype=np.int64)
    if count < 2:
        return depth, parent
    order = np.argsort(shell, kind="stable")
    begin = np.searchsorted(shell[order], np.arange(count + 1))
    sizes = np.diff(begin)
    picks = begin[:-1, None] + (sizes[:, None] * (np.arange(_SAMPLES) + 0.5) / _SAMPLES).astype(int)
    chosen = order[picks].reshape(-1)
    points = vertices[faces[chosen]].mean(axis=1)
    own = np.repeat(np.arange(count, dtype=np.int64), _SAMPLES)
    tree = Tree.of(vertices, faces)
    votes: dict[tuple[int, int], int] = {}
    for direction in _DIRECTIONS:
        owner, around = covering_shells(tree, points, direction, shell)
        for sample, outer in zip(owner.tolist(), around.tolist(), strict=True):
            if own[sample] != outer:
                votes[sample, outer] = votes.get((sample, outer), 0) + 1
    agreed: dict[tuple[int, int], int] = {}
    for (sample, outer), n in votes.items():
        if 2 * n > len(_DIRECTIONS):
            pair = (int(own[sample]), outer)
            agreed[pair] = agreed.get(pair, 0) + 1
    inside = [pair for pair, n in agreed.items() if n == _SAMPLES]
    for inner, _ in inside:
        depth[inner] += 1
    for inner, outer in inside:
        if parent[inner] < 0 or depth[outer] > depth[parent[inner]]:
            parent[inner] = outer
    return depth, parent
