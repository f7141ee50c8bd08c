"""What the parent of all child processes loads once, so that each child starts at once.

Only kernels that run on one thread may be touched here: threads do not survive a fork.
"""

import numpy as np
from caulkcore import Mesh
from caulkcore.examine import Skin
from caulkcore.kernels.weld import weld

from bench import child

__all__ = ["child"]

_corners = np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0], [0, 0, 1]], dtype=np.float32)
_vertices, _index = weld(_corners)
_skin = Skin(Mesh(_vertices, np.array([[0, 2, 1], [0, 1, 3], [1, 2, 3], [2, 0, 3]])))
assert _skin.is_tight
assert not _skin.loops
