"""Geometry of triangle meshes for 3D printing: diagnose, repair, remesh, measure.

A library of pure functions over arrays. It prints nothing and knows nothing of materials, prices or
screens; the package `caulkjob` beside it knows the work of a print service.

>>> from caulkcore import Mesh
>>> corner = Mesh([[0, 0, 0], [1, 0, 0], [0, 1, 0], [0, 0, 1]],
...               [[0, 2, 1], [0, 1, 3], [0, 3, 2], [1, 2, 3]])
>>> round(corner.volume, 6)
0.166667
"""

from importlib import import_module
from typing import TYPE_CHECKING, Any

if TYPE_CHECKING:
    from .errors import Cancelled, CaulkError, InvalidMesh, OperationRefused, RefusedInput
    from .io.files import read, write
    from .mesh.triangle_mesh import Mesh

__all__ = [
    "Cancelled",
    "CaulkError",
    "InvalidMesh",
    "Mesh",
    "OperationRefused",
    "RefusedInput",
    "read",
    "write",
]
_HOMES = {
    "Cancelled": "errors",
    "CaulkError": "errors",
    "InvalidMesh": "errors",
    "Mesh": "mesh.triangle_mesh",
    "OperationRefused": "errors",
    "RefusedInput": "errors",
    "read": "io.files",
    "write": "io.files",
}
"""Where each name is defined: it is loaded when it is asked for, so that a short process loads
nothing that it does not use."""


def __getattr__(name: str) -> Any:
    if name not in _HOMES:
        raise AttributeError(f"module {__name__!r} has no attribute {name!r}")
    return getattr(import_module(f".{_HOMES[name]}", __name__), name)
