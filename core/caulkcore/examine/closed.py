"""Is the skin watertight and manifold, all of it facing outward? One finding for each kind."""

from collections.abc import Callable

import numpy as np

from ..kernels import edges as kernel
from ..mesh import Array, face_crosses
from ..polygons import extent, flatness, newell
from ..topology import Topology
from .finding import Finding, Place, counted, length_text
from .places import place_of
from .rings import FLAT_LOOP
from .skin import Loop, Skin


def find(skin: Skin) -> list[Finding]:
    """The findings of *Closed*, leaks first."""
    makers = (
        holes,
        sheets,
        cracks,
        flipped,
        inside_out,
        over_shared,
        pinched,
        duplicates,
        zero_area,
    )
    return [finding for finding in (make(skin) for make in makers) if finding is not None]


def _loop_lines(loop: Loop) -> Array:
    onward = np.roll(loop.vertices, -1)
    lines = np.stack([loop.vertices, onward], axis=1)
    return lines if loop.ring else lines[:-1]


def holes(skin: Skin) -> Finding | None:
    """Boundary loops and open rims."""
    places = []
    total = 0
    for loop in skin.loops:
        points = skin.mesh.vertices[loop.vertices]
        lines = _loop_lines(loop)
        total += len(lines)
        if loop.ring:
            shape = "flat" if flatness(points) <= FLAT_LOOP else "curved"
            title = f"Hole, {counted(len(lines), 'edge')}, {shape}"
        else:
            title = f"Open rim, {counted(len(lines), 'edge')}"
        measure = f"{length_text(extent(points))} across"
        places.append(
            (
                extent(points),
                # a hole's faces run round it the other way than a face would that fills it
                place_of(
                    skin.mesh, title, measure, len(lines), lines=lines, facing=-newell(points)
                ),
            )
        )
    if not places:
        return None
    places.sort(key=lambda p: -p[0])
    n = len(places)
    return Finding(
        "open-edges",
        "leak",
        total,
        f"The skin is open at {counted(n, 'place')} ({counted(total, 'open edge')}). "
        "Material cannot be told from air there; it would print open or not at all.",
        tuple(p for _, p in places),
    )


def sheets(skin: Skin) -> Finding | None:
    """Shells with too much missing to be called holed."""
    chosen = np.flatnonzero(skin.sheets)
    if not len(chosen):
        return None
    places = _shell_places(skin, chosen, lambda s: "Scrap" if skin.scraps[s] else "Open sheet")
    scraps = int(skin.scraps.sum())
    text = ""
    if scraps < len(chosen):
        text = (
            f"{counted(len(chosen) - scraps, 'piece')} with too much missing to be called a hole: "
            "a skin without thickness. A lid would change its shape; it needs a thickness, or a "
            "better file. "
        )
    if scraps:
        text += f"{counted(scraps, 'scrap')} of skin, open on all sides and too small to be meant."
    return Finding("open-sheets", "call", len(chosen), text.strip(), places)


def _shell_places(skin: Skin, chosen: Array, noun: Callable[[int], str]) -> tuple[Place, ...]:
    """A place for each of some shells, the largest first."""
    places = []
    for s in chosen.tolist():
        faces = skin.faces_of_shell(s)
        across = extent(skin.mesh.vertices[skin.mesh.faces[faces].ravel()])
        title = f"{noun(s)}, {counted(len(faces), 'triangle')}"
        measure = f"{length_text(across)} across"
        places.append((across, place_of(skin.mesh, title, measure, len(faces), faces=faces)))
    places.sort(key=lambda p: -p[0])
    return tuple(p for _, p in places)


def _grouped_lines(skin: Skin, lines: Array) -> list[Array]:
    label, count = kernel.group_edges(lines, len(skin.mesh.vertices))
    order = np.argsort(label, kind="stable")
    return np.split(lines[order], np.cumsum(np.bincount(label, minlength=count))[:-1])


def _line_places(skin: Skin, lines: Array, noun: str) -> tuple[Place, ...]:
    v = skin.mesh.vertices
    places = []
    for group in _grouped_lines(skin, lines):
        length = float(np.linalg.norm(v[group[:, 0]] - v[group[:, 1]], axis=1).sum())
        title = f"{noun}, {counted(len(group), 'edge')}"
        places.append(
            (
                length,
                place_of(skin.mesh, title, f"{length_text(length)} long", len(group), lines=group),
            )
        )
    places.sort(key=lambda p: -p[0])
    return tuple(p for _, p in places)


def cracks(skin: Skin) -> Finding | None:
    """Open chains beside one another."""
    halves, join = skin.cracks
    if not len(halves):
        return None
    ends = skin.topology.ends(halves)
    label, count = kernel.group_edges(join[ends], len(skin.mesh.vertices))
    v = skin.mesh.vertices
    gap = np.linalg.norm(v - v[join], axis=1)
    places = []
    for i in range(count):
        lines = ends[label == i]
        length = float(np.linalg.norm(v[lines[:, 0]] - v[lines[:, 1]], axis=1).sum()) / 2
        width = length_text(float(gap[lines].max()))
        title = f"Crack, {counted(len(lines), 'edge')}, {width} wide"
        places.append(
            (
                length,
                place_of(skin.mesh, title, f"{length_text(length)} long", len(lines), lines=lines),
            )
        )
    places.sort(key=lambda p: -p[0])
    return Finding(
        "cracks",
        "leak",
        len(halves),
        f"{counted(len(halves), 'open edge lies', 'open edges lie')} along another without being "
        "joined. The skin is torn there, though no gap can be seen.",
        tuple(p for _, p in places),
    )


def _face_groups(skin: Skin, faces: Array) -> list[Array]:
    """Groups of faces joined by edges."""
    topology = Topology(skin.mesh, skin.mesh.faces[faces])
    label, count = topology.shells
    order = np.argsort(label, kind="stable")
    return np.split(faces[order], np.cumsum(np.bincount(label, minlength=count))[:-1])


def _face_places(skin: Skin, faces: Array, noun: str, *, inward: bool = False) -> tuple[Place, ...]:
    places = []
    mesh = skin.mesh
    for group in _face_groups(skin, faces):
        towards = face_crosses(mesh.vertices, mesh.faces[group]).sum(axis=0)
        across = extent(skin.mesh.vertices[skin.mesh.faces[group].ravel()])
        title = f"{noun}, {counted(len(group), 'triangle')}"
        places.append(
            (
                len(group),
                place_of(
                    skin.mesh,
                    title,
                    f"{length_text(across)} across",
                    len(group),
                    faces=group,
                    facing=-towards if inward else towards,
                ),
            )
        )
    places.sort(key=lambda p: -p[0])
    return tuple(p for _, p in places)


def flipped(skin: Skin) -> Finding | None:
    """Patches that run against their neighbours."""
    flipped = np.union1d(skin.flipped_faces, skin.twisted_faces).astype(np.int32)
    if not len(flipped):
        return None
    text = (
        f"{counted(len(flipped), 'triangle faces', 'triangles face')} inward, against their "
        "neighbours. "
        "A printer may take inside for outside there and leave the patch out."
    )
    if len(skin.twisted_faces):
        text = (
            f"{counted(len(flipped), 'triangle')} cannot be made to agree with their neighbours: "
            "the surface has only one side, like a twisted band."
        )
    return Finding(
        "flipped-faces",
        "leak",
        len(flipped),
        text,
        _face_places(skin, flipped, "Patch inward", inward=True),
    )


def inside_out(skin: Skin) -> Finding | None:
    """Outer shells of negative volume."""
    n = len(skin.inside_out)
    if not n:
        return None
    return Finding(
        "inside-out-shells",
        "leak",
        n,
        f"{counted(n, 'shell')} inside out: the outer skin faces inward, as mirrored parts "
        "often do. It would count as a hollow, not as material.",
        _shell_places(skin, skin.inside_out, lambda s: "Shell inside out"),
    )


def over_shared(skin: Skin) -> Finding | None:
    """Chains of edges with three or more faces."""
    if not len(skin.over_shared):
        return None
    n = len(skin.over_shared)
    return Finding(
        "over-shared-edges",
        "leak",
        n,
        f"At {counted(n, 'edge')} three or more faces meet. It is not decided there which side "
        "is material.",
        _line_places(skin, skin.over_shared, "Over-shared"),
    )


def pinched(skin: Skin) -> Finding | None:
    """Vertices where the skin touches itself."""
    if not len(skin.pinched):
        return None
    faces = skin.mesh.faces
    where = np.flatnonzero(np.isin(faces, skin.pinched).any(axis=1)).astype(np.int32)
    by_vertex: dict[int, list[int]] = {int(v): [] for v in skin.pinched}
    for f in where:
        for v in faces[f]:
            if int(v) in by_vertex:
                by_vertex[int(v)].append(int(f))
    places = tuple(
        place_of(
            skin.mesh,
            f"Pinched vertex, {counted(len(around), 'triangle')} round it",
            "at one point",
            1,
            faces=np.array(around),
        )
        for around in by_vertex.values()
    )
    n = len(places)
    return Finding(
        "pinched-vertices",
        "leak",
        n,
        f"At {counted(n, 'vertex', 'vertices')} the skin touches itself in a single point. "
        "Nothing holds there, and it is not decided what is joined.",
        places,
    )


def duplicates(skin: Skin) -> Finding | None:
    """Faces on the same three vertices as another."""
    n = len(skin.duplicate_faces)
    if not n:
        return None
    return Finding(
        "duplicate-faces",
        "leak",
        n,
        f"{counted(n, 'triangle stands', 'triangles stand')} on the same three vertices "
        "as another. Skins that lie on each other leave inside and outside undecided.",
        _face_places(skin, skin.duplicate_faces, "Duplicate"),
    )


def zero_area(skin: Skin) -> Finding | None:
    """Faces whose corners coincide or lie on a line."""
    n = len(skin.zero_area_faces)
    if not n:
        return None
    harm = len(skin.hollow_faces)
    text = f"{counted(n, 'triangle')} without area: corners that coincide or lie on a line. "
    text += (
        "They carry no surface and leave the skin undecided where they hang."
        if harm
        else "The skin is closed over them; they do no harm in print."
    )
    return Finding(
        "zero-area-faces",
        "leak" if harm else "note",
        n,
        text,
        _face_places(skin, skin.zero_area_faces, "Without area"),
    )
