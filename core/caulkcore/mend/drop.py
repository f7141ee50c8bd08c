"""Dropping faces that carry no surface: duplicates, faces without area, scraps."""

from collections.abc import Collection

import numpy as np

from ..arrays import frozen
from ..examine import closed as check
from ..examine.finding import counted
from ..examine.skin import FLAT, Skin
from ..kernels.faces import least_heights
from ..mesh import Array, Mesh
from ..topology import Topology
from .outcome import Outcome
from .places import chosen_places, faces_of

_ROUNDS = 50


def drop_duplicates(mesh: Mesh, places: Collection[int] | None = None) -> Outcome:
    """Leave one face of each group that stands on the same three vertices.

    Of copies that run both ways the majority's way is kept; an equal number cancels out when the
    surface is closed without them, as an inner wall between two joined solids is.

    Parameters
    ----------
    mesh : Mesh
    places : collection of int, optional
        Numbers of the places to mend; all by default.
    """
    skin = Skin(mesh)
    finding = check.duplicates(skin)
    extra = faces_of(chosen_places(finding, places))
    if not len(extra):
        return Outcome(mesh)
    drop = np.zeros(len(mesh.faces), dtype=bool)
    drop[extra] = True
    key = np.sort(mesh.faces, axis=1)
    copied = {tuple(row) for row in key[extra].tolist()}
    cancelled = [f for f in skin.cancelled_faces if tuple(key[f].tolist()) in copied]
    drop[cancelled] = True
    done = f"{counted(len(extra), 'duplicate face')} dropped."
    if cancelled:
        done = (
            f"{counted(len(extra), 'duplicate face')} dropped, with "
            f"{counted(len(cancelled), 'inner wall face')} that cancelled out."
        )
    result = Mesh(mesh.vertices, mesh.faces[~drop]).compact()
    return Outcome(result, done, {"faces": int(drop.sum()), "cancelled": len(cancelled)})


def drop_scraps(mesh: Mesh) -> Outcome:
    """Drop open sheets that cannot be meant.

    They have less than `SCRAP_SHARE` of the whole area, or lie in the material of a closed shell.

    Parameters
    ----------
    mesh : Mesh
    """
    skin = Skin(mesh)
    shell, _ = skin.shells
    scraps, inner = skin.scraps, skin.inner_sheets
    dropped = scraps | inner
    if not dropped.any():
        return Outcome(mesh)
    gone = skin.kept[dropped[shell]]
    result = Mesh(mesh.vertices, np.delete(mesh.faces, gone, axis=0)).compact()
    kinds = (scraps, "scrap", "open on all sides"), (inner, "sheet", "wholly inside a solid")
    told = [f"{counted(int(k.sum()), noun)} dropped, {why}" for k, noun, why in kinds if k.any()]
    done = f"{'; '.join(told)}: {counted(len(gone), 'triangle')}."
    return Outcome(result, done, {"sheets": int(dropped.sum()), "faces": len(gone)})


def drop_zero_area(mesh: Mesh, places: Collection[int] | None = None) -> Outcome:
    """Take out faces without area and leave the surface closed round them.

    A face with two equal corners is simply left out. One whose three corners lie on a line has
    its longest edge turned: that edge's other face is cut at the corner in the middle, so that
    nothing opens.

    Parameters
    ----------
    mesh : Mesh
    places : collection of int, optional
        Numbers of the places to mend; all by default.
    """
    skin = Skin(mesh)
    chosen = faces_of(chosen_places(check.zero_area(skin), places))
    if not len(chosen):
        return Outcome(mesh)
    faces = mesh.faces.copy()
    flat = np.zeros(len(faces), dtype=bool)
    flat[chosen] = True
    drop = np.zeros(len(faces), dtype=bool)
    a, b, c = faces.T
    drop |= flat & ((a == b) | (b == c) | (c == a))
    turned = 0
    for _ in range(_ROUNDS):
        left = np.flatnonzero(flat & ~drop)
        if not len(left):
            break
        done, gone = _turn_edges(mesh, faces, flat, drop, left)
        turned += done
        if not done and not gone:
            drop[left] = True
    result = Mesh(mesh.vertices, faces[~drop]).compact()
    text = f"{counted(len(chosen), 'face')} without area taken out"
    text += f", {counted(turned, 'edge')} turned." if turned else "."
    return Outcome(result, text, {"faces": len(chosen), "edges_turned": turned})


def _turn_edges(mesh: Mesh, faces: Array, flat: Array, drop: Array, left: Array) -> tuple[int, int]:
    """One round: turn the longest edges of faces that do not disturb each other, in place."""
    kept = np.flatnonzero(~drop)
    topology = Topology(mesh, faces[kept])
    position = np.full(len(faces), -1)
    position[kept] = np.arange(len(kept))
    edges = {tuple(e) for e in np.sort(topology.edges_where(topology.sharing > 0)).tolist()}
    v = mesh.vertices
    busy: set[int] = set()
    turned = gone = 0
    for f in left.tolist():
        ring = faces[f]
        sides = [float(np.linalg.norm(v[ring[k]] - v[ring[(k + 1) % 3]])) for k in range(3)]
        k = int(np.argmax(sides))
        half = int(topology.partner[3 * position[f] + k])
        if half < 0:
            drop[f] = True
            gone += 1
            continue
        g = int(kept[half // 3])
        if g in busy or f in busy:
            continue
        start, end, middle = (int(ring[(k + j) % 3]) for j in range(3))
        far = int(faces[g][(half % 3 + 2) % 3])
        new = (min(middle, far), max(middle, far))
        if int(faces[g][half % 3]) != end or far == middle or new in edges:
            continue
        faces[f] = (start, far, middle)
        faces[g] = (far, end, middle)
        edges.add(new)
        busy |= {f, g}
        turned += 1
        height = least_heights(v, frozen(faces[[f, g]], np.int32))
        limit = FLAT * mesh.diagonal
        flat[f], flat[g] = height[0] <= limit, height[1] <= limit
    return turned, gone
