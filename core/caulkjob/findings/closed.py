"""Is the skin watertight and manifold, all of it facing outward? One finding for each kind."""

from collections.abc import Callable
from dataclasses import replace

import numpy as np
from caulkcore.diagnose.diagnosis import NEEDLE, Diagnosis
from caulkcore.mesh import _edge_kernels as kernel
from caulkcore.mesh.arrays import Array
from caulkcore.mesh.groups import Groups
from caulkcore.mesh.topology import Topology
from caulkcore.mesh.triangle_mesh import face_areas, face_crosses

from ..text import counted, length_text
from .finding import Finding, Place, Places
from .places import place_of, shell_places, worst_first

_NO_SURFACE = Finding(
    "open-edges", "leak", 0, "There is no surface at all: nothing of it would print."
)
"""What is found of a mesh without faces."""


def find(diagnosis: Diagnosis) -> list[Finding]:
    """The findings of *Closed*, leaks first; an empty mesh is never tight.

    Parameters
    ----------
    diagnosis : Diagnosis

    Returns
    -------
    list of Finding
    """
    if not len(diagnosis.mesh.faces):
        return [_NO_SURFACE]
    makers = (
        holes,
        open_sheets,
        cracks,
        flipped,
        inside_out,
        over_shared,
        pinched,
        duplicates,
        zero_area,
        needles,
    )
    return [finding for finding in (make(diagnosis) for make in makers) if finding is not None]


def holes(diagnosis: Diagnosis) -> Finding | None:
    """Boundary loops, but for the rims of open sheets and of fins.

    Parameters
    ----------
    diagnosis : Diagnosis

    Returns
    -------
    Finding or None
        None if there is nothing of the kind.

    Examples
    --------
    >>> from caulkcore.mesh.simple_solids import cuboid
    >>> from caulkcore import Mesh
    >>> cube = cuboid()
    >>> found = holes(Diagnosis(Mesh(cube.vertices, cube.faces[1:])))
    >>> found.places[0].title, found.count
    ('Hole, 3 edges, flat', 3)
    """
    loops = diagnosis.boundary_loops.take(diagnosis.holes)
    if not len(loops):
        return None

    def place(i: int) -> Place:
        n = int(loops.edges[i])
        title = f"Hole, {counted(n, 'edge')}, {'flat' if loops.flat[i] else 'curved'}"
        measure = f"{length_text(float(loops.diameters[i]))} across"
        # a hole's faces run round it the other way than a face would that fills it
        facing = -loops.area_vectors[i]
        lines = loops[i].lines
        return place_of(diagnosis.mesh, title, measure, n, lines=lines, facing=facing)

    places = worst_first(diagnosis.mesh, "open-edges", loops.diameters, place, lines=loops.lines)
    # a hole that runs out into a crack is shown whole; the crack's edges are counted there
    total = int(diagnosis.loop_edges[diagnosis.holes].sum())
    return Finding(
        "open-edges",
        "leak",
        total,
        f"The skin is open at {counted(len(loops), 'place')} ({counted(total, 'open edge')}). "
        "Material cannot be told from air there; it would print open or not at all.",
        places,
    )


def open_sheets(diagnosis: Diagnosis) -> Finding | None:
    """Shells with too much missing to be called holed.

    Parameters
    ----------
    diagnosis : Diagnosis

    Returns
    -------
    Finding or None
        None if there is nothing of the kind.
    """
    chosen = np.flatnonzero(diagnosis.open_sheets)
    if not len(chosen):
        return None

    def title(s: int) -> str:
        what = "Scrap" if diagnosis.small_sheets[s] else "Open sheet"
        what = "Inner sheet" if diagnosis.enclosed_sheets[s] else what
        return f"{what}, {counted(diagnosis.by_shell.sizes[s], 'triangle')}"

    def with_area(s: int, place: Place) -> Place:
        faces = diagnosis.mesh.faces[diagnosis.by_shell[s]]
        return replace(place, area=float(face_areas(diagnosis.mesh.vertices, faces).sum()))

    places = shell_places(diagnosis, "open-sheets", chosen, title, more=with_area)
    inner = int(diagnosis.enclosed_sheets.sum())
    scraps = int(diagnosis.small_sheets.sum())
    text = []
    if scraps + inner < len(chosen):
        text.append(
            f"{counted(len(chosen) - scraps - inner, 'piece')} with too much missing to be called "
            "a hole: a skin without thickness. A lid would change its shape; it needs a thickness, "
            "or a better file."
        )
    if scraps:
        text.append(
            f"{counted(scraps, 'scrap')} of skin, open on all sides and too small to be meant."
        )
    if inner:
        text.append(
            f"{counted(inner, 'sheet')} without thickness inside a solid, where nothing can be "
            "seen of it."
        )
    return Finding("open-sheets", "leak", len(chosen), " ".join(text), places)


def _line_places(
    diagnosis: Diagnosis,
    kind: str,
    lines: Array,
    title: Callable[[Array], str],
    joined: Array | None = None,
) -> Places:
    """A place for each chain of edges, the longest first.

    `joined` are the lines as they hang together, if other than by their own vertices.
    """
    v = diagnosis.mesh.vertices
    label, _ = kernel.group_edges(lines if joined is None else joined, len(v))
    groups = Groups.by_label(label, lines)
    ends = v[groups.items]
    lengths = groups.reduce(np.add, np.linalg.norm(ends[:, 0] - ends[:, 1], axis=1))
    if joined is not None:
        lengths = lengths / 2

    def place(i: int) -> Place:
        measure = f"{length_text(float(lengths[i]))} long"
        chain = groups[i]
        return place_of(diagnosis.mesh, title(chain), measure, len(chain), lines=chain)

    return worst_first(diagnosis.mesh, kind, lengths, place, lines=groups.of)


def cracks(diagnosis: Diagnosis) -> Finding | None:
    """Open chains beside one another.

    Parameters
    ----------
    diagnosis : Diagnosis

    Returns
    -------
    Finding or None
        None if there is nothing of the kind.
    """
    half_edges, target = diagnosis.cracks.half_edges, diagnosis.cracks.target
    if not len(half_edges):
        return None
    ends = diagnosis.topology.ends(half_edges)
    v = diagnosis.mesh.vertices

    def title(chain: Array) -> str:
        width = np.linalg.norm(v[chain] - v[target[chain]], axis=-1).max()
        return f"Crack, {counted(len(chain), 'edge')}, {length_text(float(width))} wide"

    places = _line_places(diagnosis, "cracks", ends, title, target[ends])
    return Finding(
        "cracks",
        "leak",
        len(half_edges),
        f"{counted(len(half_edges), 'open edge lies', 'open edges lie')} along another without "
        "being joined. The skin is torn there, though no gap can be seen.",
        places,
    )


def _face_places(
    diagnosis: Diagnosis, kind: str, faces: Array, title: str, *, inward: bool = False
) -> Places:
    """A place for each patch of faces joined by edges, the largest first."""
    mesh = diagnosis.mesh
    label, _ = Topology(mesh, mesh.faces[faces]).shells
    groups = Groups.by_label(label, faces)
    longest = groups.longest_sides(mesh.vertices[mesh.faces[groups.items]])

    def place(i: int) -> Place:
        patch = groups[i]
        n = len(patch)
        towards = face_crosses(mesh.vertices, mesh.faces[patch]).sum(axis=0)
        return place_of(
            mesh,
            f"{title}, {counted(n, 'triangle')}",
            f"longest side {length_text(float(longest[i]))}",
            n,
            faces=patch,
            facing=-towards if inward else towards,
        )

    return worst_first(mesh, kind, groups.sizes, place, faces=groups.of)


def flipped(diagnosis: Diagnosis) -> Finding | None:
    """Patches that run against their neighbours.

    Parameters
    ----------
    diagnosis : Diagnosis

    Returns
    -------
    Finding or None
        None if there is nothing of the kind.
    """
    flipped = np.union1d(diagnosis.flipped_faces, diagnosis.nonorientable_faces).astype(np.int32)
    if not len(flipped):
        return None
    text = (
        f"{counted(len(flipped), 'triangle faces', 'triangles face')} inward, against their "
        "neighbours. "
        "A printer may take inside for outside there and leave the patch out."
    )
    if len(diagnosis.nonorientable_faces):
        text = (
            f"{counted(len(flipped), 'triangle')} cannot be made to agree with their neighbours: "
            "the surface has only one side, like a twisted band."
        )
    return Finding(
        "flipped-faces",
        "leak",
        len(flipped),
        text,
        _face_places(diagnosis, "flipped-faces", flipped, "Patch inward", inward=True),
    )


def inside_out(diagnosis: Diagnosis) -> Finding | None:
    """Outer shells of negative volume.

    Parameters
    ----------
    diagnosis : Diagnosis

    Returns
    -------
    Finding or None
        None if there is nothing of the kind.
    """
    n = len(diagnosis.inverted_shells)
    if not n:
        return None

    def title(s: int) -> str:
        return f"Shell inside out, {counted(diagnosis.by_shell.sizes[s], 'triangle')}"

    return Finding(
        "inside-out-shells",
        "leak",
        n,
        f"{counted(n, 'shell')} inside out: the outer skin faces inward, as mirrored parts "
        "often do. It would count as a hollow, not as material.",
        shell_places(diagnosis, "inside-out-shells", diagnosis.inverted_shells, title),
    )


def over_shared(diagnosis: Diagnosis) -> Finding | None:
    """Chains of edges with three or more faces.

    Parameters
    ----------
    diagnosis : Diagnosis

    Returns
    -------
    Finding or None
        None if there is nothing of the kind.
    """
    if not len(diagnosis.nonmanifold_edges):
        return None
    n = len(diagnosis.nonmanifold_edges)
    return Finding(
        "over-shared-edges",
        "leak",
        n,
        f"At {counted(n, 'edge')} three or more faces meet. It is not decided there which side "
        "is material.",
        _line_places(
            diagnosis,
            "over-shared-edges",
            diagnosis.nonmanifold_edges,
            lambda chain: f"Over-shared, {counted(len(chain), 'edge')}",
        ),
    )


def pinched(diagnosis: Diagnosis) -> Finding | None:
    """Vertices where the skin touches itself.

    Parameters
    ----------
    diagnosis : Diagnosis

    Returns
    -------
    Finding or None
        None if there is nothing of the kind.
    """
    if not len(diagnosis.nonmanifold_vertices):
        return None
    faces, nonmanifold_vertices = diagnosis.mesh.faces, diagnosis.nonmanifold_vertices
    corners = np.flatnonzero(np.isin(faces, nonmanifold_vertices))
    # round each vertex, in their order
    fans = Groups.by_label(faces.reshape(-1)[corners], corners // 3)

    def place(i: int) -> Place:
        around = fans[i]
        title = f"Pinched vertex, {counted(len(around), 'triangle')} round it"
        return place_of(diagnosis.mesh, title, "at one point", 1, faces=around)

    n = len(nonmanifold_vertices)
    places = worst_first(diagnosis.mesh, "pinched-vertices", fans.sizes, place, faces=fans.of)
    return Finding(
        "pinched-vertices",
        "leak",
        n,
        f"At {counted(n, 'vertex', 'vertices')} the skin touches itself in a single point. "
        "Nothing holds there, and it is not decided what is joined.",
        places,
    )


def duplicates(diagnosis: Diagnosis) -> Finding | None:
    """Faces on the same three vertices as another.

    Parameters
    ----------
    diagnosis : Diagnosis

    Returns
    -------
    Finding or None
        None if there is nothing of the kind.
    """
    n = len(diagnosis.duplicate_faces)
    if not n:
        return None
    return Finding(
        "duplicate-faces",
        "leak",
        n,
        f"{counted(n, 'triangle stands', 'triangles stand')} on the same three vertices "
        "as another. Skins that lie on each other leave inside and outside undecided.",
        _face_places(diagnosis, "duplicate-faces", diagnosis.duplicate_faces, "Duplicate"),
    )


def zero_area(diagnosis: Diagnosis) -> Finding | None:
    """Faces whose corners coincide or lie on a line.

    Parameters
    ----------
    diagnosis : Diagnosis

    Returns
    -------
    Finding or None
        None if there is nothing of the kind.
    """
    n = len(diagnosis.degenerate_faces)
    if not n:
        return None
    harm = len(diagnosis.unneeded_degenerate_faces)
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
        _face_places(diagnosis, "zero-area-faces", diagnosis.degenerate_faces, "Without area"),
    )


def needles(diagnosis: Diagnosis) -> Finding | None:
    """Faces of hardly any height.

    Parameters
    ----------
    diagnosis : Diagnosis

    Returns
    -------
    Finding or None
        None if there is nothing of the kind.
    """
    n = len(diagnosis.needle_faces)
    if not n:
        return None
    height = NEEDLE * diagnosis.mesh.diagonal
    return Finding(
        "needle-faces",
        "note",
        n,
        f"{counted(n, 'triangle is', 'triangles are')} thinner than {length_text(height)}. They do "
        "no harm in print, but rounding and later steps may fold them.",
        _face_places(diagnosis, "needle-faces", diagnosis.needle_faces, "Needle"),
    )
