"""Several meshes as one."""

import numpy as np

from ..mesh import Mesh


def together(parts: list[Mesh]) -> Mesh:
    """The faces of several meshes in one; vertices are not joined."""
    parts = [p for p in parts if len(p.faces)]
    starts = np.cumsum([0, *(len(p.vertices) for p in parts[:-1])])
    return Mesh(
        np.concatenate([p.vertices for p in parts]),
        np.concatenate([p.faces + s for p, s in zip(parts, starts, strict=True)]),
    )
