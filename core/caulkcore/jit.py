"""The compiler of the kernels, Numba, or its stand-in in processes too short to load it.

Loading Numba takes a third of a second of a process that looks at a small file for a few
milliseconds. Where `INTERPRETED` is set in the environment before a kernel is imported, kernels
stay plain Python functions, which some thousand triangles do not notice: the answers are the same.
"""

import os
from collections.abc import Callable
from types import SimpleNamespace
from typing import Any

INTERPRETED = "CAULKCORE_INTERPRETED"
"""Name of the environment variable that keeps a process from compiling."""


IS_INTERPRETED = bool(os.environ.get(INTERPRETED))
"""Whether kernels are left as they are. What would take long then is done by NumPy."""


def _plain(function: Callable[..., Any] | None = None, **_: Any) -> Any:
    """In place of `numba.njit`, with options or without: the function as it is."""
    return function if function is not None else lambda given: given


nb: Any
if IS_INTERPRETED:
    nb = SimpleNamespace(njit=_plain, prange=range)
else:
    import numba

    nb = numba
