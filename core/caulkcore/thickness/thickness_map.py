"""Walls: how thick a solid is everywhere, and where it is too thin."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from ..diagnose.diagnosis import Diagnosis
from ..errors import OperationRefused
from ..mesh.topology import Topology
from ..mesh.triangle_mesh import Mesh
from ..progress import SILENT, Progress
from ..spatial.box_tree import Tree
from .ball_and_ray import BallAndRay, measure_ball_and_ray
from .necks import CreaseBalls, Necks, find_necks, measure_creases
from .sampling import Samples
from .thin_regions import SampleLinks, ThinRegions, thin_regions

LEAST_THICKNESS, MOST_THICKNESS = 0.01, 100.0
"""Limits that can be asked about, mm."""
_REACH = 2.0
"""Thickness is measured up to so many times the limit, so that a map shows what is near it."""
_SPACING = 0.5
"""Faces are sampled every so many limits: a thin spot smaller than that is no wall."""
_AS_CLOSE = 1.1
"""Samples spaced wider by so little miss nothing that matters."""
_MOST_ACROSS = 1200.0
"""But at most so many times along the diagonal: some millions of samples in all."""


@dataclass(frozen=True, eq=False)
class ThicknessMap:
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
    limit : float
        The thickness of interest, mm.
    """

    mesh: Mesh
    samples: Samples
    depths: BallAndRay
    most: float
    open_faces: int
    tree: Tree
    topology: Topology
    limit: float

    def could_miss(self, limit: float) -> float | None:
        """Size below which a spot thinner than a limit could be missed, mm.

        Parameters
        ----------
        limit : float
            mm.

        Returns
        -------
        float or None
            None where samples are as close as the limit asks for: every half of it.
        """
        spacing = self.samples.spacing
        return spacing if spacing > _AS_CLOSE * _SPACING * limit else None

    @cached_property
    def thinnest(self) -> float:
        """Least thickness of all walls, mm; `most` if none is thinner."""
        walls = self.depths.wall[self.depths.is_wall]
        return float(walls.min(initial=self.most))

    def percentiles(self, *shares: float) -> list[float]:
        """Thickness that these percentages of the skin fall below, by area.

        Parameters
        ----------
        *shares : float
            Percentages.

        Returns
        -------
        list of float
            mm, one for each.
        """
        wall, area = self.depths.wall, self.samples.area
        order = np.argsort(wall, kind="stable")
        below = np.cumsum(area[order])
        at = np.searchsorted(below, np.array(shares) / 100 * below[-1])
        return [float(x) for x in wall[order[np.minimum(at, len(order) - 1)]]]

    @cached_property
    def links(self) -> SampleLinks:
        """Which samples are beside each other, and across walls."""
        return SampleLinks(self.samples, self.depths, self.topology.twin)

    @cached_property
    def _grown(self) -> dict[float, ThinRegions]:
        return {}

    @cached_property
    def _crease_balls(self) -> CreaseBalls:
        return measure_creases(self.topology, self.tree, self.most, self.limit)

    def necks(self, limit: float) -> Necks:
        """Where thick parts hang together by less than a limit, but for what is a thin wall.

        Parameters
        ----------
        limit : float
            mm, not more than was measured.

        Returns
        -------
        Necks
        """
        if limit not in self._narrowed:
            thin = self.regions(limit).samples.items
            walls = self.depths.wall[thin]
            found = find_necks(
                self.tree, self._crease_balls, limit, self.samples.points[thin], walls
            )
            self._narrowed[limit] = found
        return self._narrowed[limit]

    @cached_property
    def _narrowed(self) -> dict[float, Necks]:
        return {}

    def regions(self, limit: float) -> ThinRegions:
        """Where walls are thinner than a limit.

        Parameters
        ----------
        limit : float
            mm.

        Returns
        -------
        ThinRegions
        """
        if limit not in self._grown:
            self._grown[limit] = thin_regions(
                self.samples, self.depths, self.tree, self.links, limit
            )
        return self._grown[limit]


def measure_gap_width(
    mesh: Mesh,
    limit: float,
    *,
    progress: Progress = SILENT,
    greatest: float | None = None,
    inside: ThicknessMap | None = None,
) -> ThicknessMap:
    """Measure how narrow the space outside a mesh is.

    It is the same as `measure_thickness`, turned outside in. Its `regions` are slits and engraved
    detail: *free-standing* ones are open on one side, their `height` is how deep they are.

    Parameters
    ----------
    mesh : Mesh
        In millimetres.
    limit : float
        The width of interest, mm.
    progress : Progress
    greatest : float, optional
        Gaps are measured up to this, too, mm.
    inside : ThicknessMap, optional
        Of the same mesh: what it knows of the mesh is not worked out again.

    Returns
    -------
    ThicknessMap
        Of the space outside.

    Raises
    ------
    OperationRefused
        If the limit is not from `LEAST_THICKNESS` to `MOST_THICKNESS`.
    Cancelled
        If `progress` asks to stop.
    """
    if inside is None or inside.mesh is not mesh:
        tree, topology = _known_of(mesh)
    else:
        tree, topology = inside.tree, inside.topology
    topology = topology.flipped()
    return _measured(topology.mesh, limit, progress, greatest, tree.flipped(), topology)


def measure_thickness(
    mesh: Mesh, limit: float, *, progress: Progress = SILENT, greatest: float | None = None
) -> ThicknessMap:
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
    ThicknessMap

    Raises
    ------
    OperationRefused
        If the limit is not from `LEAST_THICKNESS` to `MOST_THICKNESS`.
    Cancelled
        If `progress` asks to stop.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> walls = measure_thickness(cuboid((20.0, 20.0, 0.5)), 0.8)
    >>> round(walls.thinnest, 6), len(walls.regions(0.8))
    (0.5, 1)
    """
    return _measured(mesh, limit, progress, greatest, *_known_of(mesh))


def _known_of(mesh: Mesh) -> tuple[Tree, Topology]:
    """A tree over all faces of a mesh, and its topology: those of its diagnosis if they are."""
    diagnosis = Diagnosis.of(mesh)
    if np.array_equal(diagnosis.topology.faces, mesh.faces):
        return diagnosis.tree, diagnosis.topology
    return Tree.of(mesh.vertices, mesh.faces), Topology(mesh)


def _measured(
    mesh: Mesh,
    limit: float,
    progress: Progress,
    greatest: float | None,
    tree: Tree,
    topology: Topology,
) -> ThicknessMap:
    if not LEAST_THICKNESS <= limit <= MOST_THICKNESS:
        raise OperationRefused(
            f"A wall limit must be from {LEAST_THICKNESS:g} to {MOST_THICKNESS:g} mm."
        )
    progress.step("Spreading samples", 0.0)
    spacing = max(_SPACING * limit, mesh.diagonal / _MOST_ACROSS)
    most = max(_REACH * limit, greatest or 0.0)
    samples = Samples.of(mesh, spacing)
    open_edges = topology.twin == -1
    depths = measure_ball_and_ray(
        tree, samples.points, samples.normals, samples.face, most,
        progress=progress.span(0.1, 0.95),
        rims=open_edges.reshape(-1, 3) if open_edges.any() else None, sided=topology.is_coherent,
    )  # fmt: skip
    shell, count = topology.shells
    is_open = np.zeros(count, dtype=bool)
    is_open[shell[np.flatnonzero(open_edges) // 3]] = True
    open_faces = int(is_open[shell].sum())
    return ThicknessMap(mesh, samples, depths, most, open_faces, tree, topology, limit)
