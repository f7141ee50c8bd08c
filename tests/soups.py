"""Soups: random triangles on a coarse grid, where everything coincides with everything."""

import numpy as np
from caulkcore import Mesh
from caulkcore.mesh.weld import weld

_STEP = 4.0
"""Side of the grid's cells, mm."""
SMALLEST = Mesh(
    np.array(
        [[0, 12, 0], [4, 4, 8], [8, 4, 12], [8, 12, 0], [12, 0, 0], [12, 0, 4], [16, 8, 0],
         [16, 16, 0], [16, 16, 12]], float,
    ),
    [[0, 2, 5], [4, 2, 0], [5, 7, 8], [2, 0, 5], [4, 8, 1], [2, 1, 7], [4, 8, 7], [2, 3, 1],
     [3, 6, 5]],
)  # fmt: skip
"""All of whose faces cancel out once they are turned to agree."""


def soup(seed: int) -> Mesh:
    """Some 4 to 30 triangles between points of a grid of 2 to 5 steps a side."""
    rng = np.random.default_rng(seed)
    count, side = int(rng.integers(4, 30)), int(rng.integers(2, 6))
    points, index = weld(rng.integers(0, side, (int(rng.integers(4, 20)), 3)) * _STEP)
    faces = [rng.choice(len(index), 3, replace=False) for _ in range(count)]
    return Mesh(points, index[np.array(faces)]).compact()
