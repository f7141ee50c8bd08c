"""What an open shell encloses, once each of its rims has a lid."""

import numpy as np

from ..mesh._edge_kernels import components
from ..mesh.arrays import Array
from ..mesh.topology import Topology

_TINY = np.finfo(float).tiny
"""In place of no length at all, mm, where lengths are divided by."""


def lid_volumes(vertices: Array, topology: Topology, shell: Array, middle: Array) -> Array:
    """The signed volume between lids on the rims of shells and a point of each shell.

    Added to what is measured of the faces from the same point, it gives what the shell encloses
    with a lid on each rim, wherever that point lies and however the surface is divided. A lid is
    the fan from the middle of a rim's length to its edges: flat where the rim is.

    Parameters
    ----------
    vertices : ndarray, shape (n, 3)
        mm.
    topology : Topology
        Of the faces.
    shell : ndarray, shape (m,)
        Shell of each face.
    middle : ndarray, shape (s, 3)
        A point for each shell, mm.

    Returns
    -------
    ndarray, shape (s,)
        mm³; zero for closed shells.

    Examples
    --------
    A box without its top, measured from its middle, lacks the sixth of it that is below the top.

    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> from caulkcore.mesh.triangle_mesh import Mesh
    >>> box = cuboid()
    >>> top = (box.vertices[box.faces][:, :, 2] == 10.0).all(axis=1)
    >>> rimmed = Topology(Mesh(box.vertices, box.faces[~top]))
    >>> lid = lid_volumes(box.vertices, rimmed, np.zeros(10, int), np.array([[5.0, 5.0, 5.0]]))
    >>> (lid / 1000).round(6).tolist()
    [0.166667]
    """
    rim = np.flatnonzero(topology.twin < 0)
    if not len(rim):
        return np.zeros(len(middle))
    ends = topology.ends(rim)
    used, joins = np.unique(ends, return_inverse=True)
    joins = joins.reshape(-1, 2).astype(np.int32)
    loop = components(joins, len(used))[joins[:, 0]]
    a, b = vertices[ends[:, 0]], vertices[ends[:, 1]]
    length = np.maximum(np.linalg.norm(b - a, axis=1), _TINY)
    around = np.maximum(np.bincount(loop, length), _TINY)
    halfway = (a + b) / 2 * length[:, None]
    tip = np.stack([np.bincount(loop, halfway[:, k]) / around for k in range(3)], axis=1)
    of = shell[rim // 3]
    # a lid runs along its rim the other way round than the faces do
    cone = np.cross(b - middle[of], a - middle[of])
    volume = (cone * (tip[loop] - middle[of])).sum(axis=1) / 6.0
    return np.bincount(of, volume, minlength=len(middle))
