"""What the parent of all child processes loads once, so that each child starts at once.

Only kernels that run on one thread may be touched here: threads do not survive a fork.
"""

import numpy as np
from caulkcore import Mesh
from caulkcore.mesh.topology import Topology
from caulkcore.mesh.weld import weld

_corners = np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0], [0, 0, 1]], dtype=np.float32)
_vertices, _ = weld(_corners)
_topology = Topology(Mesh(_vertices, np.array([[0, 2, 1], [0, 1, 3], [1, 2, 3], [2, 0, 3]])))
assert _topology.is_sound
assert _topology.shells[1] == 1
assert not len(_topology.boundary_walks[0])
