"""Geometry of triangle meshes for 3D printing: diagnose, repair, remesh, measure.

A library of pure functions over arrays. It prints nothing and knows nothing of materials, prices or
screens; the package `caulkjob` beside it knows the work of a print service.

>>> from caulkcore import Mesh
>>> corner = Mesh([[0, 0, 0], [1, 0, 0], [0, 1, 0], [0, 0, 1]],
...               [[0, 2, 1], [0, 1, 3], [0, 3, 2], [1, 2, 3]])
>>> round(corner.volume, 6)
0.166667
"""

from . import _startup  # noqa: F401  (before what imports Numba)
from .errors import Cancelled, CaulkError, OperationRefused, RefusedInput
from .io.files import read, write
from .mesh.triangle_mesh import Mesh

__all__ = [
    "Cancelled",
    "CaulkError",
    "Mesh",
    "OperationRefused",
    "RefusedInput",
    "read",
    "write",
]
