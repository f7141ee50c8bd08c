"""Giving open sheets a thickness."""

from collections.abc import Collection
from typing import Literal

import numpy as np

from ..arrange import NotArranged
from ..examine import closed as check
from ..examine.finding import counted, length_text, volume_text
from ..examine.skin import Skin
from ..kernels import edges as kernel
from ..mesh import Array, Mesh, face_normals
from ..topology import Topology
from .one_skin import one_skin
from .outcome import Outcome
from .part import two_face_joins
from .places import chosen_places, faces_of
from .together import together

Side = Literal["both", "outward", "inward"]
_LONGEST = 3.0
# Where faces meet at a sharp angle, a corner goes at most so many thicknesses out to keep theirs.
_TURNED_MOST = 0.05
_CRUMB = 1e-3
# Of a wall's volume: most that may come out inside out, and bits left where the skins cross.


def give_thickness(
    mesh: Mesh,
    places: Collection[int] | None = None,
    thickness: float = 1.0,
    side: Side = "both",
) -> Outcome:
    """Make walls of open sheets: the sheet on one side or both, and its rims closed.

    Each vertex goes out so far that the faces around it keep the thickness. What the two sides
    enclose is arranged exactly; where the sheet curves tighter than the thickness, its wall is
    what is left when the parts turned inside out are left out.

    Parameters
    ----------
    mesh : Mesh
    places : collection of int, optional
        Numbers of the open sheets; all by default.
    thickness : float
        Of the walls, mm.
    side : {"both", "outward", "inward"}
        Where the new skin lies, seen from the sheet: half on each side, or all of it where its
        faces face, or where their backs are.
    """
    skin = Skin(mesh)
    chosen = faces_of(chosen_places(check.sheets(skin), places))
    if not len(chosen):
        return Outcome(mesh)
    shell, _ = skin.shells
    one_sided = np.isin(skin.kept, skin.twisted_faces)
    walls, used, left = [], np.zeros(len(shell), dtype=bool), []
    for s in np.unique(shell[np.isin(skin.kept, chosen)]).tolist():
        mine = shell == s
        name = f"An open sheet of {counted(int(mine.sum()), 'triangle')} is left"
        if one_sided[mine].any():
            left.append(f"{name}: it has only one side, like a twisted band.")
            continue
        try:
            wall = one_skin(_walled(mesh, skin.topology.faces[mine], thickness, side))
        except NotArranged as problem:
            left.append(f"{name}: {problem}")
            continue
        if wall.inverted > _TURNED_MOST * wall.mesh.volume:
            left.append(f"{name}: it curves much tighter than {length_text(thickness)}.")
            continue
        walls.append(_without_crumbs(wall.mesh))
        used |= mine
    if not walls:
        return Outcome(mesh, left=tuple(left))
    rest = np.delete(mesh.faces, skin.kept[used], axis=0)
    where = {"both": "half on each side", "outward": "outward", "inward": "inward"}[side]
    done = (
        f"{counted(len(walls), 'open sheet')} given a thickness of {length_text(thickness)}, "
        f"{where}: {volume_text(sum(w.volume for w in walls))}."
    )
    counts = {"sheets": len(walls), "thickness_mm": thickness}
    result = together([Mesh(mesh.vertices, rest).compact(), *walls])
    return Outcome(result, done, counts, tuple(left))


def _walled(mesh: Mesh, faces: Array, thickness: float, side: Side) -> Mesh:
    """Both skins of a sheet and the rims between them; it may cross itself."""
    topology = Topology(mesh, faces)
    # a copy of each vertex for every fan of faces, joined over edges with just two
    fan = kernel.fans_of_joins(topology.faces, two_face_joins(topology))
    roots, corner = np.unique(fan, return_inverse=True)
    corners = corner.reshape(-1, 3)
    points = mesh.vertices[topology.faces.reshape(-1)[roots]]
    out = _outward(mesh.vertices, topology.faces, corners, len(points))
    share = {"both": 0.5, "outward": 1.0, "inward": 0.0}[side]
    upper, lower = points + share * thickness * out, points - (1 - share) * thickness * out
    n = len(points)
    rim = np.flatnonzero(topology.partner < 0)
    a, b = corners[rim // 3, rim % 3], corners[rim // 3, (rim % 3 + 1) % 3]
    parts = (corners, corners[:, ::-1] + n, np.stack([b, a, a + n], axis=1),
             np.stack([b, a + n, b + n], axis=1))  # fmt: skip
    vertices = np.concatenate([upper, lower]).astype(np.float32)
    return Mesh(vertices, np.concatenate(parts))


def _without_crumbs(wall: Mesh) -> Mesh:
    skin = Skin(wall)
    shell, _ = skin.shells
    volume, _ = skin.shell_measures
    large = np.abs(volume) > _CRUMB * np.abs(volume).sum()
    return Mesh(wall.vertices, skin.topology.faces[large[shell]]).compact()


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
        some = weight[:, k, None] * normals
        np.add.at(matrix, corners[:, k], some[:, :, None] * normals[:, None, :])
        np.add.at(right, corners[:, k], some)
    mean = right / np.maximum(np.linalg.norm(right, axis=1, keepdims=True), 1e-12)
    # where the faces lie in one plane only the way along their normal is decided
    scale = np.trace(matrix, axis1=1, axis2=2)[:, None, None]
    pull = 1e-4 * scale * np.eye(3)
    way = np.linalg.solve(matrix + pull, (right + 1e-4 * scale[:, 0] * mean)[..., None])[..., 0]
    length = np.linalg.norm(way, axis=1, keepdims=True)
    return way * np.minimum(1.0, _LONGEST / np.maximum(length, 1e-12))
