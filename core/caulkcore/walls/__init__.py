"""Walls: how thick a solid is everywhere, and where it is too thin."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from ..arrays import Array
from ..errors import RefusedRemedy
from ..kernels.tree import Tree
from ..mesh import Mesh
from ..progress import SILENT, Progress
from ..topology import Topology
from .measure import OPPOSITE, Depths, measure
from .regions import Regions, thin_regions
from .sample import Samples

__all__ = [
    "LEAST",
    "MOST",
    "OPPOSITE",
    "Depths",
    "Regions",
    "Samples",
    "Walls",
    "measure",
    "sound_gaps",
    "sound_walls",
]

LEAST, MOST = 0.01, 100.0
"""Limits that can be asked about, mm."""
_REACH = 2.0
_FINE = 0.5
_ACROSS = 1200.0


@dataclass(frozen=True, eq=False)
class Walls:
    """Thickness all over a mesh.

    Attributes
    ----------
    mesh : Mesh
    samples : Samples
    depths : Depths
    most : float
        Thickness beyond which nothing was measured, mm.
    open_faces : int
        Faces of shells that are not closed; what is measured there means little.
    """

    mesh: Mesh
    samples: Samples
    depths: Depths
    most: float
    open_faces: int
    tree: Tree
    partner: Array

    @cached_property
    def thinnest(self) -> float:
        """Least thickness of all walls, mm; `most` if none is thinner."""
        walls = self.depths.wall[self.depths.is_wall]
        return float(walls.min(initial=self.most))

    def percentiles(self, *shares: float) -> list[float]:
        """Thickness that these percentages of the skin fall below, by area."""
        wall, area = self.depths.wall, self.samples.area
        order = np.argsort(wall, kind="stable")
        below = np.cumsum(area[order])
        at = np.searchsorted(below, np.array(shares) / 100 * below[-1])
        return [float(x) for x in wall[order[np.minimum(at, len(order) - 1)]]]

    @cached_property
    def _grown(self) -> dict[float, Regions]:
        return {}

    def regions(self, limit: float) -> Regions:
        """Where walls are thinner than a limit."""
        if limit not in self._grown:
            self._grown[limit] = thin_regions(
                self.samples, self.depths, self.tree, self.partner, limit
            )
        return self._grown[limit]


def sound_gaps(
    mesh: Mesh, limit: float, progress: Progress = SILENT, greatest: float | None = None
) -> Walls:
    """Measure how narrow the space outside a mesh is: the same as `sound_walls`, turned outside in.

    Its `regions` are slits and engraved detail: *free-standing* ones are open on one side, their
    `height` is how deep they are.
    """
    return sound_walls(Mesh(mesh.vertices, mesh.faces[:, ::-1]), limit, progress, greatest)


def sound_walls(
    mesh: Mesh, limit: float, progress: Progress = SILENT, greatest: float | None = None
) -> Walls:
    """Measure thickness all over a mesh.

    Parameters
    ----------
    mesh : Mesh
        In millimetres. Where it is not closed, thickness is measured as far as it is defined.
    limit : float
        The thickness of interest, mm: faces are sampled every half of it, walls measured up to
        twice as much.
    progress : Progress
    greatest : float, optional
        Walls are measured up to this, too, mm.

    Returns
    -------
    Walls

    Raises
    ------
    RefusedRemedy
        If the limit is not from `LEAST` to `MOST`.
    """
    if not LEAST <= limit <= MOST:
        raise RefusedRemedy(f"A wall limit must be from {LEAST:g} to {MOST:g} mm.")
    progress.step("Spreading samples", 0.0)
    spacing = max(_FINE * limit, mesh.diagonal / _ACROSS)
    tree = Tree.of(mesh.vertices, mesh.faces)
    topology = Topology(mesh)
    most = max(_REACH * limit, greatest or 0.0)
    samples = Samples.of(mesh, spacing)
    open_edges = topology.partner == -1
    depths = measure(
        tree, samples.points, samples.normals, samples.face, most, progress.part(0.1, 0.95),
        open_edges.reshape(-1, 3) if open_edges.any() else None, topology.is_coherent,
    )  # fmt: skip
    shell, count = topology.shells
    is_open = np.zeros(count, dtype=bool)
    is_open[shell[np.flatnonzero(open_edges) // 3]] = True
    return Walls(mesh, samples, depths, most, int(is_open[shell].sum()), tree, topology.partner)
