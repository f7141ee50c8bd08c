"""The compiler of the kernels, Numba, or its stand-in in processes too short to load it.

Loading Numba takes half a second of a process that looks at a small file for a few milliseconds.
Where `INTERPRETED` is set in the environment before a kernel is imported, kernels stay plain Python
functions, which a few hundred triangles do not notice: the answers are the same.

Numba imports `scipy.linalg` only to learn whether kernels may use BLAS. None of ours does, and it
would be a quarter of the time that Numba takes to load. Who wants `scipy.linalg` later gets it as
ever.

Between two parallel kernels OpenMP's threads would go round and round for some milliseconds, on
cores that another job, the database or a browser could use: two examinations beside each other then
take one and a half times as long. They sleep instead; alone, an examination takes some hundredths
longer.
"""

import os
import sys
from collections.abc import Callable
from types import SimpleNamespace
from typing import Any

INTERPRETED = "CAULKCORE_INTERPRETED"
"""Name of the environment variable that keeps a process from compiling."""

os.environ.setdefault("OMP_WAIT_POLICY", "passive")


def _plain(function: Callable[..., Any] | None = None, **_: Any) -> Any:
    """In place of `numba.njit`, with options or without: the function as it is."""
    return function if function is not None else lambda given: given


nb: Any
if os.environ.get(INTERPRETED):
    import numpy as np

    # hashes wrap around on purpose
    np.seterr(over="ignore")
    nb = SimpleNamespace(njit=_plain, prange=range)
else:
    if "numba" not in sys.modules and "scipy.linalg" not in sys.modules:
        sys.modules["scipy.linalg"] = None  # type: ignore[assignment]
        import numba.np.arraymath

        del sys.modules["scipy.linalg"]
    import numba

    nb = numba
