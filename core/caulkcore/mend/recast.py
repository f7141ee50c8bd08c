"""Rebuilding a model from a fine grid: the way out when nothing exact is left to do."""

from dataclasses import dataclass

import numpy as np

from ..arrange import have_area
from ..arrays import frozen
from ..errors import RefusedRemedy
from ..examine.finding import counted, length_text
from ..kernels.tree import Tree
from ..kernels.voxels import different, lines_through, looked_up, numbered, wound_along
from ..kernels.winding import Winding
from ..mesh import Array, Mesh, face_areas, face_normals
from ..progress import SILENT, Progress
from ..topology import Topology
from .contour import Crossed, contour
from .cost import Cost, Measures
from .crossing import crossing_faces
from .orient import turn_outward, turn_patches
from .outcome import Outcome
from .part import part_pinched, split_over_shared
from .rounding import as_float32
from .simplify import simplified

MOST_GB = 6.0
"""Most memory that a recast may take."""
USUAL_VOXELS = 200
"""As many, if nobody chose a detail size."""
_GB = 0.3
_CLOSED_SECONDS, _OPEN_SECONDS = 1.6e-5, 1.3e-4
_FINER = 20.0
_SAMPLES = 200_000
_ROUNDS = 6
_MARGIN = 2.37
# Steps around the model; no whole number, so that faces of CAD models do not lie in the grid.


def recast(
    mesh: Mesh,
    detail: float | None = None,
    deviation: float | None = None,
    progress: Progress = SILENT,
) -> Outcome:
    """Rebuild the whole as one closed skin round what the surface winds round.

    The surface is cut with the lines of a grid; nodes inside and outside are told apart by how
    often it winds round them, exactly if it is closed and by its winding number (Barill et al.
    2018) if it is not, so that holes get a lid; patches against their neighbours and shells inside
    out are turned before. The contour between them is drawn with the original's sharp edges (see
    `contour`), its points on the planes of the original's faces, and its triangles are made fewer
    within a deviation (see `simplified`). Where the new skin would cross itself, its points go
    back to the middle of their voxel's crossings.

    Parameters
    ----------
    mesh : Mesh
    detail : float, optional
        Size of a voxel, mm: what is thinner may be lost. By default a two-hundredth of the
        longest side.
    deviation : float, optional
        Distance by which fewer triangles may move the new skin, mm; a twentieth of the detail
        size by default.
    progress : Progress

    Raises
    ------
    RefusedRemedy
        If the voxels would be too many.
    """
    longest = float(mesh.size.max())
    step = longest / USUAL_VOXELS if detail is None else detail
    _gigabytes(mesh.area, step)
    turned = turn_outward(turn_patches(mesh).mesh).mesh
    faces = frozen(turned.faces[have_area(turned.vertices, turned.faces)], np.int32)
    if not len(faces):
        return Outcome(mesh, left=("There is no surface to recast.",))
    grid = _Grid.around(turned, step)
    progress.step("Cutting the surface with the grid", 0.0)
    found = _Found(grid, faces)
    progress.step("Drawing the new skin", 0.4)
    sharp, mean, new = contour(found.edges, found.inside, grid.shape)
    del found
    if not len(new):
        return Outcome(mesh, left=("It encloses nothing at this detail size.",))
    progress.step("Making its triangles fewer", 0.7)
    moved = step / _FINER if deviation is None else deviation
    skin = Mesh(grid.placed(sharp), new)
    result = simplified(skin, moved)
    if result is None:
        progress.step("Looking for triangles that cross", 0.85)
        skin = Mesh(_uncrossed(skin.vertices, grid.placed(mean), new), new)
        # where two parts of the surface share a voxel's face they may share an edge, too
        skin = part_pinched(split_over_shared(skin).mesh).mesh
        result = simplified(skin, moved) or skin
    progress.step("Looking for what was lost", 0.95)
    lost = lost_share(mesh, result, 2 * step)
    done = (
        f"Recast at a detail size of {length_text(step)}: "
        f"{counted(len(result.faces), 'triangle')} in place of {len(mesh.faces):,}."
    )
    told = (
        f"{lost:.2%} of the surface has nothing of the new skin near it: it is open, or thinner "
        "than the detail size."
    )
    counts = {"detail_mm": step, "deviation_mm": moved, "lost_share": lost}
    return Outcome(result, done, counts, (told,) if lost else ())


def lost_share(before: Mesh, after: Mesh, reach: float) -> float:
    """Share of a surface that is neither near another nor inside it.

    Parameters
    ----------
    before, after : Mesh
    reach : float
        What counts as near, mm.
    """
    areas = face_areas(before.vertices, before.faces)
    some = np.unique(np.linspace(0, len(areas) - 1, min(len(areas), _SAMPLES)).astype(int))
    middles = before.vertices[before.faces[some]].mean(axis=1)
    distance, _ = Tree.of(after.vertices, after.faces).nearest(middles)
    far = np.flatnonzero(distance > reach)
    if not len(far):
        return 0.0
    lost = far[Winding(after.vertices, after.faces).at(middles[far]) < 0.5]
    return float(areas[some[lost]].sum() / areas[some].sum())


def cost(measures: Measures, detail: float | None = None, deviation: float | None = None) -> Cost:
    """What `recast` will take; that goes with the grid lines that cross the surface."""
    step = measures.longest / USUAL_VOXELS if detail is None else detail
    # round an open surface each node's winding number is worked out
    a_cell = _CLOSED_SECONDS if measures.closed else _OPEN_SECONDS
    return Cost(a_cell * measures.area / step**2, _gigabytes(measures.area, step))


def _gigabytes(area: float, step: float) -> float:
    """About how much memory a recast takes.

    Raises
    ------
    RefusedRemedy
        If that is too much.
    """
    takes = _GB + 1.65e-6 * area / step**2
    if takes > MOST_GB:
        least = step * np.sqrt((takes - _GB) / (MOST_GB - _GB))
        raise RefusedRemedy(
            f"A detail size of {length_text(step)} would take more than {MOST_GB:g} GB; "
            f"{length_text(float(least))} is about the least for this model."
        )
    return takes


@dataclass(frozen=True, eq=False)
class _Grid:
    """A regular grid round a mesh, and the mesh's vertices in its steps."""

    low: Array
    step: float
    shape: tuple[int, int, int]
    vertices: Array

    @staticmethod
    def around(mesh: Mesh, step: float) -> "_Grid":
        low = mesh.bounds[0] - _MARGIN * step
        count = np.ceil((mesh.bounds[1] - low) / step).astype(int) + 3
        vertices = frozen((mesh.vertices - low) / step, np.float64)
        return _Grid(low, step, (int(count[0]), int(count[1]), int(count[2])), vertices)

    def placed(self, points: Array) -> Array:
        """Points of the grid in mm, on float32."""
        return as_float32(points * self.step + self.low)


class _Found:
    """Where grid lines cross a surface, and which nodes lie inside it."""

    def __init__(self, grid: _Grid, faces: Array) -> None:
        self.grid = grid
        nx, ny, nz = grid.shape
        normals = face_normals(grid.vertices, faces)
        parts = []
        for d in range(3):
            node, along, side, face = lines_through(grid.vertices, faces, d)
            number = (node[:, 0].astype(np.int64) * ny + node[:, 1]) * nz + node[:, 2]
            order = np.lexsort((along, number))
            parts.append((3 * number[order] + d, along[order], side[order], face[order]))
        edge, self._z_along, self._z_side, _ = parts[2]
        self._z_starts = np.searchsorted(edge // 3 // nz, np.arange(nx * ny + 1))
        closed = _is_closed(grid.vertices, faces)
        self._winding = None if closed else Winding(grid.vertices, faces)
        self._table, self._number = numbered(np.zeros(0, np.int64)), np.zeros(0, np.float32)
        # the ends of all edges at once
        strides = (ny * nz, nz, 1)
        low = [part[0] // 3 for part in parts]
        self.wound(np.concatenate([*low, *(x + d for x, d in zip(low, strides, strict=True))]))
        chosen = [self._through(*part, d) for d, part in enumerate(parts)]
        edge = np.concatenate([c[0] for c in chosen])
        along = np.concatenate([c[1] for c in chosen])
        point = np.stack(np.unravel_index(edge // 3, grid.shape), axis=1).astype(float)
        point[np.arange(len(edge)), edge % 3] = along
        self.edges = Crossed(edge, point, normals[np.concatenate([c[2] for c in chosen])])

    def _work_out(self, nodes: Array) -> Array:
        nx, ny, nz = self.grid.shape
        if self._winding is None:
            return wound_along(self._z_starts, self._z_along, self._z_side, nodes, nz, ny)
        i, j, k = np.unravel_index(nodes, self.grid.shape)
        out = self._winding.at(np.stack([i, j, k], axis=1))
        # a soup may have its inside reach beyond itself; the grid ends somewhere
        out[(i < 2) | (j < 2) | (k < 2) | (i > nx - 3) | (j > ny - 3) | (k > nz - 3)] = 0.0
        return out

    def wound(self, nodes: Array) -> Array:
        """How often the surface winds round nodes; each is worked out once."""
        number = looked_up(*self._table, nodes)
        fresh = number < 0
        if fresh.any():
            new = different(*numbered(nodes[fresh]))
            self._number = np.append(self._number, self._work_out(new).astype(np.float32))
            self._table = numbered(np.append(different(*self._table), new))
            number[fresh] = looked_up(*self._table, nodes[fresh])
        return self._number[number]

    def inside(self, nodes: Array) -> Array:
        """Whether nodes lie inside."""
        return self.wound(nodes) > 0.5

    def _through(
        self, edge: Array, along: Array, side: Array, face: Array, d: int
    ) -> tuple[Array, Array, Array]:
        """For each edge with one end inside: the edge, where it is crossed, and by which face."""
        _, ny, nz = self.grid.shape
        starts = np.flatnonzero(np.append(True, edge[1:] != edge[:-1]))
        ends = np.append(starts[1:], len(edge))
        node = edge[starts] // 3
        beyond = node + (ny * nz, nz, 1)[d]
        below, above = self.wound(node), self.wound(beyond)
        one = (below > 0.5) != (above > 0.5)
        starts, ends, below = starts[one], ends[one], below[one]
        # of several crossings the one where the number passes from outside to inside or back
        pick = (starts + ends - 1) // 2
        for i in np.flatnonzero(ends - starts > 1).tolist():
            number = below[i]
            for c in range(starts[i], ends[i]):
                passed = number > 0.5
                number -= side[c]
                if (number > 0.5) != passed:
                    pick[i] = c
        return edge[starts], along[pick], face[pick]


def _is_closed(vertices: Array, faces: Array) -> bool:
    """Whether at each edge as many faces run one way as the other."""
    topology = Topology(Mesh(vertices, faces))
    ends = topology.ends(topology.order)
    way = np.where(ends[:, 0] < ends[:, 1], 1, -1)
    return not np.add.reduceat(way, topology.starts[:-1]).any()


def _uncrossed(sharp: Array, mean: Array, faces: Array) -> Array:
    """The sharp points, or the mean ones where faces would cross between sharp ones."""
    vertices = sharp
    touched = np.ones(len(faces), dtype=bool)
    for _ in range(_ROUNDS):
        pairs = crossing_faces(vertices, faces, None if touched.all() else touched)
        if not len(pairs):
            break
        back = np.unique(faces[np.unique(pairs)])
        if (vertices[back] == mean[back]).all():
            break
        vertices = vertices.copy()
        vertices[back] = mean[back]
        moved = np.zeros(len(vertices), dtype=bool)
        moved[back] = True
        touched = moved[faces].any(axis=1)
    return vertices
