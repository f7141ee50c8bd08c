"""Giving open sheets a thickness."""

from typing import Literal

import numpy as np

from ..arrangement.arrange import ArrangementFailed
from ..arrangement.outer_hull import outer_hull
from ..diagnose.diagnosis import Diagnosis
from ..mesh import _edge_kernels as kernel
from ..mesh.arrays import Array
from ..mesh.concatenate import concatenate
from ..mesh.topology import Topology
from ..mesh.triangle_mesh import Mesh, face_normals
from ..outcome import Outcome, Skipped

Side = Literal["both", "outward", "inward"]
"""Where a new wall lies, seen from the sheet."""
_LONGEST = 3.0
"""Where faces meet at a sharp angle, a corner goes at most so many thicknesses out to keep
theirs."""
_MOST_INVERTED = 0.05
"""Largest share of a wall's volume that may come out inside out: more, and the sheet curves much
tighter than the thickness."""
_CRUMB = 1e-3
"""Bits of less than this share of a wall's volume, left where its sides cross, are dropped."""


def thicken_open_sheets(
    diagnosis: Diagnosis,
    shells: Array | None = None,
    *,
    thickness: float = 1.0,
    side: Side = "both",
) -> Outcome:
    """Make walls of open sheets: the sheet on one side or both, and its rims closed.

    Each vertex goes out so far that the faces around it keep the thickness. What the two sides
    enclose is arranged exactly; where the sheet curves tighter than the thickness, its wall is
    what is left when the parts turned inside out are left out.

    Parameters
    ----------
    diagnosis : Diagnosis
    shells : ndarray, shape (k,), optional
        Numbers of the shells; all `Diagnosis.open_sheets` by default.
    thickness : float
        Of the walls, mm.
    side : {"both", "outward", "inward"}
        Where the new surface lies, seen from the sheet: half on each side, or all of it where its
        faces face, or where their backs are.

    Returns
    -------
    Outcome
        Numbers: ``sheets`` and their ``volume_mm3``. Skipped, each with the sheet's ``faces`` and a
        point ``at``:
        ``one-sided``; ``curves-too-tight``; ``not-arranged`` with a ``message``.

    Examples
    --------
    >>> square = Mesh([[0, 0, 0], [8, 0, 0], [8, 8, 0], [0, 8, 0]], [[0, 1, 2], [0, 2, 3]])
    >>> wall = thicken_open_sheets(Diagnosis(square), thickness=0.5).mesh
    >>> round(wall.volume, 6)
    32.0
    """
    mesh = diagnosis.mesh
    chosen = np.flatnonzero(diagnosis.open_sheets) if shells is None else shells
    shell, _ = diagnosis.shells
    one_sided = np.isin(diagnosis.kept, diagnosis.nonorientable_faces)
    walls, used, skipped = [], np.zeros(len(shell), dtype=bool), []
    for s in chosen.tolist():
        members = shell == s
        at = mesh.vertices[diagnosis.topology.faces[members.argmax(), 0]].tolist()
        place = {"faces": int(members.sum()), "at": at}
        if one_sided[members].any():
            skipped.append(Skipped("one-sided", place))
            continue
        try:
            wall = outer_hull(_walled(mesh, diagnosis.topology.faces[members], thickness, side))
        except ArrangementFailed as problem:
            skipped.append(Skipped("not-arranged", {**place, "message": str(problem)}))
            continue
        if wall.inverted > _MOST_INVERTED * wall.mesh.volume:
            skipped.append(Skipped("curves-too-tight", place))
            continue
        walls.append(_without_crumbs(wall.mesh))
        used |= members
    if not walls:
        return Outcome(mesh, skipped=tuple(skipped))
    rest = np.delete(mesh.faces, diagnosis.kept[used], axis=0)
    numbers = {"sheets": len(walls), "volume_mm3": sum(wall.volume for wall in walls)}
    result = concatenate([Mesh(mesh.vertices, rest).compact(), *walls])
    return Outcome(result, numbers, tuple(skipped))


def _walled(mesh: Mesh, faces: Array, thickness: float, side: Side) -> Mesh:
    """Both skins of a sheet and the rims between them; it may cross itself."""
    topology = Topology(mesh, faces)
    # a copy of each vertex for every fan of faces, joined over edges with just two
    fan = kernel.fans_of_joins(topology.faces, topology.paired_half_edges)
    roots, corner = np.unique(fan, return_inverse=True)
    corners = corner.reshape(-1, 3)
    points = mesh.vertices[topology.faces.reshape(-1)[roots]]
    out = _outward(mesh.vertices, topology.faces, corners, len(points))
    share = {"both": 0.5, "outward": 1.0, "inward": 0.0}[side]
    upper, lower = points + share * thickness * out, points - (1 - share) * thickness * out
    n = len(points)
    rim = np.flatnonzero(topology.twin < 0)
    a, b = corners[rim // 3, rim % 3], corners[rim // 3, (rim % 3 + 1) % 3]
    parts = (corners, corners[:, ::-1] + n, np.stack([b, a, a + n], axis=1),
             np.stack([b, a + n, b + n], axis=1))  # fmt: skip
    vertices = np.concatenate([upper, lower]).astype(np.float32)
    return Mesh(vertices, np.concatenate(parts))


def _without_crumbs(wall: Mesh) -> Mesh:
    diagnosis = Diagnosis(wall)
    shell, _ = diagnosis.shells
    volume, _ = diagnosis.shell_measures
    large = np.abs(volume) > _CRUMB * np.abs(volume).sum()
    return Mesh(wall.vertices, diagnosis.topology.faces[large[shell]]).compact()


def _outward(v: Array, faces: Array, corners: Array, n: int) -> Array:
    """For each point the way that takes it one unit off the planes of the faces around it."""
    normals = face_normals(v, faces)
    sides = np.stack([v[np.roll(faces, -k, axis=1)] for k in range(3)], axis=-1)
    u, w = sides[..., 1] - sides[..., 0], sides[..., 2] - sides[..., 0]
    size = np.linalg.norm(u, axis=-1) * np.linalg.norm(w, axis=-1)
    cosine = np.divide(np.einsum("ijk,ijk->ij", u, w), size, out=np.ones_like(size), where=size > 0)
    weight = np.arccos(np.clip(cosine, -1, 1)) + 1e-9
    matrix, right = np.zeros((n, 3, 3)), np.zeros((n, 3))
    for k in range(3):
        weighted = weight[:, k, None] * normals
        np.add.at(matrix, corners[:, k], weighted[:, :, None] * normals[:, None, :])
        np.add.at(right, corners[:, k], weighted)
    mean = right / np.maximum(np.linalg.norm(right, axis=1, keepdims=True), 1e-12)
    # where the faces lie in one plane only the way along their normal is decided
    # among faces without area none is
    scale = np.maximum(np.trace(matrix, axis1=1, axis2=2), 1e-9)[:, None, None]
    pull = 1e-4 * scale * np.eye(3)
    shift = np.linalg.solve(matrix + pull, (right + 1e-4 * scale[:, 0] * mean)[..., None])[..., 0]
    length = np.linalg.norm(shift, axis=1, keepdims=True)
    return shift * np.minimum(1.0, _LONGEST / np.maximum(length, 1e-12))
