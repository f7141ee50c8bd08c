"""The one array type."""

import numpy as np

Array = np.ndarray
