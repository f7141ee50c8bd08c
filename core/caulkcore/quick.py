"""Import Numba without SciPy's linear algebra, to be imported before anything else.

Numba imports `scipy.linalg` only to learn whether kernels may use BLAS. None of ours does, and it
would be a quarter of the time that the command line takes to start. Who wants `scipy.linalg` later
gets it as ever.
"""

import sys

if "numba" not in sys.modules and "scipy.linalg" not in sys.modules:
    sys.modules["scipy.linalg"] = None  # type: ignore[assignment]
    import numba.np.arraymath  # noqa: F401

    del sys.modules["scipy.linalg"]
