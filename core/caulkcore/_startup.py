"""What Numba is told and spared, to be imported before anything else.

Numba imports `scipy.linalg` only to learn whether kernels may use BLAS. None of ours does, and it
would be a quarter of the time that the command line takes to start. Who wants `scipy.linalg` later
gets it as ever.

Between two parallel kernels OpenMP's threads would go round and round for some milliseconds, on
cores that another job, the database or a browser could use: two examinations beside each other
then take one and a half times as long. They sleep instead; alone, an examination takes some
hundredths longer.
"""

import os
import sys

os.environ.setdefault("OMP_WAIT_POLICY", "passive")

if "numba" not in sys.modules and "scipy.linalg" not in sys.modules:
    sys.modules["scipy.linalg"] = None  # type: ignore[assignment]
    import numba.np.arraymath  # noqa: F401

    del sys.modules["scipy.linalg"]
