"""Points all over a surface: one in each face, and many in large faces."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from ..jit import nb
from ..mesh._face_kernels import cross_at
from ..mesh.arrays import Array, frozen
from ..mesh.triangle_mesh import Mesh, face_areas

MOST_SAMPLES = 250_000
"""Samples that are taken at most; large faces are then divided less."""

_WIDER = 1.08
"""By how much samples are spaced wider at a time, until there are few enough."""
_SLIM = 2.0
"""Parts of slim faces may be so many times as long as wide."""


@dataclass(frozen=True, eq=False)
class Samples:
    """A mesh whose faces are divided into k x k triangles each, one sample in the middle of each.

    The triangles of a face stand together, row by row: of row i (of k, counted from the corner
    across which the second and third corner lie) the upright and the hanging ones by turns.

    Attributes
    ----------
    mesh : Mesh
    parts : ndarray, shape (m,), int64
        k of each face.
    begin : ndarray, shape (m + 1,), int64
        First sample of each face.
    points, normals : ndarray, shape (s, 3)
    face : ndarray, shape (s,), int64
    spacing : float
        About the size of the parts of large faces, mm: what was asked for, or more where that
        would have been too many.
    """

    mesh: Mesh
    parts: Array
    begin: Array
    points: Array
    normals: Array
    face: Array
    spacing: float

    @staticmethod
    def of(mesh: Mesh, spacing: float) -> "Samples":
        """Divide faces into parts of about the size of `spacing`, as far as `MOST_SAMPLES` goes.

        The parts of slim faces are up to twice as long.

        Parameters
        ----------
        mesh : Mesh
            Its faces without area get a sample too; their normal is zero.
        spacing : float
            mm.

        Returns
        -------
        Samples

        Examples
        --------
        >>> from caulkcore.mesh.simple_solids import cuboid
        >>> samples = Samples.of(cuboid(), 2.5)
        >>> round(samples.area.sum().item(), 6)
        600.0
        """
        tri = mesh.vertices[mesh.faces]
        longest = np.sqrt(((tri - np.roll(tri, 1, axis=1)) ** 2).sum(axis=2).max(axis=1))
        area = face_areas(mesh.vertices, mesh.faces)
        size = np.maximum(np.sqrt(2 * area), longest / _SLIM)
        parts = np.maximum(np.ceil(size / spacing), 1).astype(np.int64)
        room = max(MOST_SAMPLES, len(parts))
        while (parts**2).sum() > room:
            spacing *= _WIDER
            parts = np.maximum(np.ceil(size / spacing), 1).astype(np.int64)
        begin = np.concatenate([[0], np.cumsum(parts**2)])
        points, normals, face = _sample(
            frozen(mesh.vertices, np.float64), frozen(mesh.faces, np.int32), parts, begin
        )
        return Samples(mesh, parts, begin, points, normals, face, float(spacing))

    @cached_property
    def area(self) -> Array:
        """Area that each sample stands for, mm², shape (s,)."""
        whole = face_areas(self.mesh.vertices, self.mesh.faces)
        return (whole / self.parts**2)[self.face]

    def corners(self, selected: Array) -> Array:
        """Corners of the triangles of some samples, shape (k, 3, 3).

        Parameters
        ----------
        selected : ndarray, shape (k,)
            Numbers of samples.

        Returns
        -------
        ndarray, shape (k, 3, 3)
        """
        return _corners(
            frozen(self.mesh.vertices, np.float64), frozen(self.mesh.faces, np.int32),
            self.parts, self.begin, self.face, frozen(selected, np.int64),
        )  # fmt: skip

    def at(self, face: Array, points: Array) -> Array:
        """The sample of a face whose triangle is nearest to a point, shape (k,).

        Parameters
        ----------
        face : ndarray, shape (k,)
        points : ndarray, shape (k, 3)
            On those faces.

        Returns
        -------
        ndarray, shape (k,)
            Numbers of samples.
        """
        a, b, c = (self.mesh.vertices[self.mesh.faces[face, k]] for k in range(3))
        u, v, w = b - a, c - a, points - a
        uu, uv, vv = (np.einsum("ij,ij->i", x, y) for x, y in ((u, u), (u, v), (v, v)))
        uw, vw = np.einsum("ij,ij->i", u, w), np.einsum("ij,ij->i", v, w)
        det = np.maximum(uu * vv - uv * uv, 1e-300)
        k = self.parts[face]
        s = np.clip((vv * uw - uv * vw) / det, 0, 1)
        t = np.clip((uu * vw - uv * uw) / det, 0, 1 - s)
        i = np.minimum((s * k).astype(np.int64), k - 1)
        j = np.minimum((t * k).astype(np.int64), k - 1 - i)
        hangs = (s * k - i + t * k - j > 1) & (j < k - 1 - i)
        return self.begin[face] + i * (2 * k - i) + 2 * j + hangs


@nb.njit(cache=True)
def _row(rank: int, k: int) -> tuple[int, int, int]:
    """Row, place in it and whether it hangs, of the triangle of this rank in its face."""
    i = int(k - np.sqrt(float(k * k - rank)))
    while i * (2 * k - i) > rank:
        i -= 1
    while (i + 1) * (2 * k - i - 1) <= rank:
        i += 1
    rest = rank - i * (2 * k - i)
    return i, rest // 2, rest % 2


@nb.njit(cache=True, parallel=True)
def _sample(vertices: Array, faces: Array, parts: Array, begin: Array):  # type: ignore[no-untyped-def]
    s = begin[-1]
    points, normals = np.empty((s, 3)), np.empty((s, 3))
    face = np.empty(s, dtype=np.int64)
    for f in nb.prange(len(faces)):
        a, b, c = faces[f, 0], faces[f, 1], faces[f, 2]
        ux, uy, uz = (vertices[b, 0] - vertices[a, 0], vertices[b, 1] - vertices[a, 1],
                      vertices[b, 2] - vertices[a, 2])  # fmt: skip
        vx, vy, vz = (vertices[c, 0] - vertices[a, 0], vertices[c, 1] - vertices[a, 1],
                      vertices[c, 2] - vertices[a, 2])  # fmt: skip
        nx, ny, nz = cross_at(vertices, a, b, c)
        size = np.sqrt(nx * nx + ny * ny + nz * nz)
        size = 1.0 / size if size > 0.0 else 0.0
        k = parts[f]
        at = begin[f]
        for i in range(k):
            for j in range(k - i):
                for hangs in range(2 if j < k - i - 1 else 1):
                    s1 = (i + (1.0 + hangs) / 3.0) / k
                    t1 = (j + (1.0 + hangs) / 3.0) / k
                    points[at, 0] = vertices[a, 0] + s1 * ux + t1 * vx
                    points[at, 1] = vertices[a, 1] + s1 * uy + t1 * vy
                    points[at, 2] = vertices[a, 2] + s1 * uz + t1 * vz
                    normals[at, 0], normals[at, 1], normals[at, 2] = nx * size, ny * size, nz * size
                    face[at] = f
                    at += 1
    return points, normals, face


@nb.njit(cache=True)
def _corners(  # type: ignore[no-untyped-def]
    vertices: Array, faces: Array, parts: Array, begin: Array, face: Array, selected: Array
):
    out = np.empty((len(selected), 3, 3))
    for x in range(len(selected)):
        f = face[selected[x]]
        k = parts[f]
        i, j, hangs = _row(selected[x] - begin[f], k)
        for corner in range(3):
            if hangs:
                p, q = i + (corner != 2), j + (corner != 0)
            else:
                p, q = i + (corner == 1), j + (corner == 2)
            for d in range(3):
                a = vertices[faces[f, 0], d]
                out[x, corner, d] = (
                    a
                    + p / k * (vertices[faces[f, 1], d] - a)
                    + q / k * (vertices[faces[f, 2], d] - a)
                )
    return out


@nb.njit(cache=True)
def _along(i: int, j: int, k: int, side: int) -> int:
    """Which of the k parts of a side of the face an upright triangle has, in the side's sense."""
    if side == 0:
        return i
    return j if side == 1 else k - 1 - j


@nb.njit(cache=True)
def _on_side(x: int, k: int, side: int) -> int:
    """Rank of the triangle at part x of a side."""
    if side == 0:
        i, j = x, 0
    elif side == 1:
        i, j = k - 1 - x, x
    else:
        i, j = 0, k - 1 - x
    return i * (2 * k - i) + 2 * j


@nb.njit(cache=True)
def neighbours(parts: Array, begin: Array, face: Array, twin: Array, selected: Array) -> Array:
    """Triangles across the three sides of some samples' triangles, shape (k, 3), -1 where none.

    The sides are those from corner to next corner as `Samples.corners` gives them. Where the face
    beyond is divided more finely, the one in the middle of the side is given.

    Parameters
    ----------
    parts, begin, face : ndarray, shape (m,), (m + 1,), (s,)
        As of `Samples`.
    twin : ndarray, shape (3 m,)
        Half-edge across each half-edge of the mesh, negative where there is not just one.
    selected : ndarray, shape (k,)
        Numbers of the samples.

    Returns
    -------
    ndarray, shape (k, 3)
        -1 where there is none.
    """
    out = np.full((len(selected), 3), -1, dtype=np.int64)
    for x in range(len(selected)):
        f = face[selected[x]]
        k = parts[f]
        i, j, hangs = _row(selected[x] - begin[f], k)
        if hangs:
            # corners (i+1, j), (i+1, j+1), (i, j+1)
            out[x, 0] = begin[f] + (i + 1) * (2 * k - i - 1) + 2 * j
            out[x, 1] = begin[f] + i * (2 * k - i) + 2 * (j + 1)
            out[x, 2] = begin[f] + i * (2 * k - i) + 2 * j
            continue
        for side in range(3):
            inner = (j > 0) if side == 0 else ((i + j < k - 1) if side == 1 else (i > 0))
            if inner:
                if side == 0:
                    out[x, side] = begin[f] + i * (2 * k - i) + 2 * (j - 1) + 1
                elif side == 1:
                    out[x, side] = begin[f] + i * (2 * k - i) + 2 * j + 1
                else:
                    out[x, side] = begin[f] + (i - 1) * (2 * k - i + 1) + 2 * j + 1
                continue
            h = twin[3 * f + side]
            if h < 0:
                continue
            g, other = h // 3, h % 3
            share = (_along(i, j, k, side) + 0.5) / k
            y = min(int((1.0 - share) * parts[g]), parts[g] - 1)
            out[x, side] = begin[g] + _on_side(y, parts[g], other)
    return out
