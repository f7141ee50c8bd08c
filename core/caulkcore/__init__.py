"""The computation of Ironcaulk: read a mesh, examine it, mend it, account for what changed.

A library of pure functions over arrays; it prints nothing and knows nothing of the web application.

>>> from caulkcore import read, examine, mend
>>> source = read("bracket.stl")
>>> report = examine(source.mesh_mm())
>>> outcome = mend(source.mesh_mm())
"""

from . import quick  # noqa: F401  (before what imports Numba)
from .errors import Cancelled, CaulkError, RefusedInput, RefusedRemedy
from .examine import examine
from .formats import read, write
from .mend import mend
from .mesh import Mesh

__all__ = [
    "Cancelled",
    "CaulkError",
    "Mesh",
    "RefusedInput",
    "RefusedRemedy",
    "examine",
    "mend",
    "read",
    "write",
]
